import { expect, test } from 'vitest';
import { exceptionsFirst, seatsInOrder, shareGone, type ClearingSeat } from './clearing';

const seat = (name: string, more: Partial<ClearingSeat>): ClearingSeat => ({
	seat: name,
	room: 'Kiln',
	state: 'planned',
	message: '',
	promised: 0,
	cleared: 0,
	held: 0,
	freed: 0,
	...more
});

test('seats at work come first, then those of which most goes, and last those of which nothing does', () => {
	const seats = [
		seat('nothing', {}),
		seat('stopped', { state: 'stopped' }),
		seat('little', { promised: 1 }),
		seat('much', { promised: 9 }),
		seat('running', { state: 'at work', promised: 2 })
	];
	expect(seatsInOrder(seats).map((row) => row.seat)).toEqual([
		'running',
		'much',
		'little',
		'stopped',
		'nothing'
	]);
});

test('seats without files to delete are folded by their message, two and more of them', () => {
	const seats = [
		seat('a', { state: 'stopped', message: 'no frame cache' }),
		seat('b', { promised: 9 }),
		seat('c', { state: 'stopped', message: 'no frame cache' }),
		seat('d', { state: 'stopped', message: 'offline' }),
		seat('e', { state: 'looking' }),
		seat('f', { cleared: 3, state: 'done' })
	];
	const { listed, folded } = exceptionsFirst(seats);
	expect(listed.map((row) => row.seat)).toEqual(['b', 'd', 'e', 'f']);
	expect(folded.map(({ message, seats: those }) => [message, those.map((row) => row.seat)])).toEqual([
		['no frame cache', ['a', 'c']]
	]);
});

test('a seat that promised nothing has nothing of it gone, and none has more than all of it', () => {
	expect(shareGone(seat('a', {}))).toBe(0);
	expect(shareGone(seat('a', { promised: 4, cleared: 1 }))).toBe(0.25);
	expect(shareGone(seat('a', { promised: 4, cleared: 9 }))).toBe(1);
});
