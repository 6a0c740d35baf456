import { describe, expect, it } from 'vitest';
import { Arrangement } from './arrangement.svelte';

const made = (): Arrangement =>
	new Arrangement([
		{ room: 'Pan House', seats: ['pan-01', 'pan-02', 'pan-03'] },
		{ room: 'Kiln', seats: ['kiln-01'] }
	]);
const told = (one: Arrangement): string => one.rooms.map((room) => room.seats.join(' ')).join(' | ');

describe('an arrangement of the floor', () => {
	it('puts a seat before the one it was dropped on, in its own room or another', () => {
		const one = made();
		one.put('pan-01', 'Pan House', 2);
		expect(told(one)).toBe('pan-02 pan-01 pan-03 | kiln-01');
		one.put('pan-03', 'Kiln', 0);
		expect(told(one)).toBe('pan-02 pan-01 | pan-03 kiln-01');
		expect(one.said).toBe('pan-03: position 1 in Kiln');
	});

	it('steps by keys and stops at the ends', () => {
		const one = made();
		one.step('pan-01', 1, 0);
		one.step('pan-01', 1, 0);
		one.step('pan-01', 1, 0);
		expect(told(one)).toBe('pan-02 pan-03 pan-01 | kiln-01');
		one.step('pan-01', 0, 1);
		one.step('pan-01', 0, 1);
		expect(told(one)).toBe('pan-02 pan-03 | kiln-01 pan-01');
	});

	it('orders rooms', () => {
		const one = made();
		one.putRoom('Kiln', 0);
		expect(one.rooms.map((room) => room.room)).toEqual(['Kiln', 'Pan House']);
	});
});
