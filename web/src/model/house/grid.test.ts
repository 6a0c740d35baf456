import { describe, expect, it } from 'vitest';
import {
	bytesOf,
	causesOf,
	cellOf,
	columnsOf,
	linesOf,
	NO_CAUSE,
	sharedOf,
	stacked,
	type GridSeat
} from './grid';

const seat = (name: string, room: string, role = ''): GridSeat => ({
	name,
	room,
	role,
	production: '',
	hardware_class: ''
});
const row = { remote: true, unread: 0, waived: 0, family_title: 'Memory', family: 'memory' };

describe('Drift', () => {
	it('reads a cell bit by bit', () => {
		expect(cellOf(4 | 8)).toEqual({ status: 'off-norm', must: true, distance: null });
		expect(cellOf(4 | (6 << 4))).toEqual({ status: 'off-norm', must: false, distance: -2 });
		expect(cellOf(3 | (10 << 4)).status).toBe('waived');
	});

	it('gives causes to the cells off norm, in order', () => {
		const found = causesOf(new Uint8Array([1, 4, 0, 12]), bytesOf(btoa('\u0002\u0000\u0001\u0001')));
		expect([...found]).toEqual([NO_CAUSE, 2, NO_CAUSE, 257]);
	});

	it('stands seats together by what they are grouped by, and leaves out who is not shown', () => {
		const seats = [seat('b', 'Loft', 'x'), seat('a', 'Kiln', 'y'), seat('c', 'Loft', 'y')];
		expect(columnsOf(seats, 'room')).toEqual({
			seats: [0, 2, 1],
			groups: [
				{ name: 'Loft', from: 0, count: 2 },
				{ name: 'Kiln', from: 2, count: 1 }
			]
		});
		expect(columnsOf(seats, 'role', (number) => number !== 0).groups.map((g) => g.count)).toEqual([2]);
	});

	it('heads each family once, and can leave out rows that are in norm', () => {
		const rows = [
			{ ...row, setting: 'memory.a', app: 'corrow', title: 'A', off: 0 },
			{ ...row, setting: 'memory.b', app: null, title: 'B', off: 2 }
		];
		expect(linesOf(rows, (app) => app).map((line) => line.title)).toEqual(['Memory', 'A, corrow', 'B']);
		expect(linesOf(rows, (app) => app, true).map((line) => line.title)).toEqual(['Memory', 'B']);
		const setting = rows[0]?.setting ?? '';
		expect(linesOf(rows, (app) => app, false, setting).map((line) => line.title)).toEqual([
			'Memory',
			'A, corrow'
		]);
	});

	it('shortens names that begin alike, and stacks those that do not', () => {
		expect(sharedOf(['pan-01', 'pan-02'])).toBe('pan-');
		expect(sharedOf(['pan-01', 'kiln-1'])).toBe('');
		expect([stacked('sluice-03'), stacked('north-hall-7'), stacked('solo')]).toEqual([
			['sluice', '03'],
			['h-hall', '7'],
			['', 'solo']
		]);
	});
});
