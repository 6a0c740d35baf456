import { expect, it } from 'vitest';
import { nearest, roomsOf } from './rooms';

it('puts seats into their rooms, in the order in which they come', () => {
	const seats = [
		{ name: 'a', room: 'Kiln', role: 'comp' },
		{ name: 'b', room: 'Pan', role: 'offline' },
		{ name: 'c', room: 'Pan', role: 'offline' },
		{ name: 'd', room: '', role: 'x' }
	];
	const rooms = roomsOf(seats).map((room) => [room.name, room.role, room.seats.length]);
	expect(rooms).toEqual([
		['Kiln', 'comp', 1],
		['Pan', 'offline', 2],
		['Corridor', 'x', 1]
	]);
});

it('finds the neighbour that an arrow means', () => {
	const at = (left: number, top: number) => ({ left, top, width: 10, height: 10 });
	const boxes = [at(0, 0), at(20, 0), at(0, 20), at(40, 2)];
	const from = boxes[0] ?? at(0, 0);
	expect(['ArrowRight', 'ArrowDown', 'ArrowLeft'].map((key) => nearest(key, from, boxes))).toEqual([
		1, 2, -1
	]);
});
