import { expect, it } from 'vitest';
import { BAND, nearest, partsOf, roomsOf, seatsOf } from './rooms';

const seat = (name: string, role: string) => ({
	name,
	role,
	production: '',
	off_norm: 0,
	presence: 'here' as const
});
const plan = [
	{ name: 'Kiln', seats: [seat('a', 'comp')] },
	{ name: 'Pan', seats: [seat('b', 'offline'), seat('c', 'assist')] },
	{ name: '', seats: [seat('d', 'comp')] }
];

it('says what a room is for where all of its seats agree', () => {
	const rooms = roomsOf(plan).map((room) => [room.name, room.role, room.seats.length]);
	expect(rooms).toEqual([
		['Kiln', 'comp', 1],
		['Pan', '', 2],
		['Corridor', 'comp', 1]
	]);
});

it('leaves out what does not fit, and rooms in which nothing does', () => {
	const rooms = roomsOf(plan, (one) => one.role === 'comp');
	expect(rooms.map((room) => room.name)).toEqual(['Kiln', 'Corridor']);
	expect(seatsOf(rooms).map((one) => one.name)).toEqual(['a', 'd']);
});

it('cuts a large room into bands that hold every seat once', () => {
	const seats = Array.from({ length: 2 * BAND + 3 }, (_, number) => seat(String(number), 'comp'));
	const bands = partsOf('Hall', seats, BAND);
	expect(bands.map((band) => band.seats.length)).toEqual([BAND, BAND, 3]);
	expect(bands.flatMap((band) => band.seats)).toEqual(seats);
	expect(new Set(bands.map((band) => band.key)).size).toBe(3);
});

it('finds the neighbour that an arrow means', () => {
	const at = (left: number, top: number) => ({ left, top, width: 10, height: 10 });
	const boxes = [at(0, 0), at(20, 0), at(0, 20), at(40, 2)];
	const from = boxes[0] ?? at(0, 0);
	expect(['ArrowRight', 'ArrowDown', 'ArrowLeft'].map((key) => nearest(key, from, boxes))).toEqual([
		1, 2, -1
	]);
});
