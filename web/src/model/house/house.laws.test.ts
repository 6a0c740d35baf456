/** What holds of every plan, grid and level. */
import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { gaugeOf, NOTCHES } from './gauge';
import {
	causesOf,
	cellOf,
	columnsOf,
	GROUPINGS,
	isOff,
	linesOf,
	NO_CAUSE,
	seatsOff,
	stacked,
	type GridSeat
} from './grid';
import { groupsOf, heardOf, nearest, partsOf, roomsOf, seatsOf, type Place } from './rooms';

const NAME = fc.string({ minLength: 1, maxLength: 12 });
const SEAT: fc.Arbitrary<Place> = fc.record({
	name: NAME,
	off_norm: fc.nat(9),
	presence: fc.constantFrom('here', 'silent', 'never'),
	production: fc.constantFrom('', 'nine lamps', 'quay nights'),
	role: fc.constantFrom('offline', 'online', '')
});
const PLAN: fc.Arbitrary<Schemas['RoomOut'][]> = fc.uniqueArray(
	fc.record({ name: fc.oneof(fc.constant(''), NAME), seats: fc.array(SEAT, { maxLength: 6 }) }),
	{ maxLength: 5, selector: (room) => room.name }
);

test('rooms show every seat that fits once, in order, and no empty room', () => {
	fc.assert(
		fc.property(PLAN, (plan) => {
			const here = (seat: Place): boolean => seat.presence === 'here';
			const rooms = roomsOf(plan, here);
			expect(seatsOf(rooms)).toEqual(seatsOf(plan).filter(here));
			expect(rooms.every((room) => room.seats.length > 0)).toBe(true);
			for (const room of rooms)
				if (room.role) expect(new Set(room.seats.map((seat) => seat.role))).toEqual(new Set([room.role]));
			expect(heardOf(plan).every((seat) => seat.presence !== 'never')).toBe(true);
		})
	);
});

test('groups name what some seat has, each once', () => {
	fc.assert(
		fc.property(PLAN, (plan) => {
			const groups = groupsOf(plan);
			expect(new Set(groups.map((group) => group.key)).size).toBe(groups.length);
			for (const { field, value } of groups)
				expect(
					plan.some((room) =>
						field === 'room' ? room.name === value : room.seats.some((seat) => seat[field] === value)
					)
				).toBe(true);
		})
	);
});

test('parts of seats hold all of them, each but the last one full', () => {
	fc.assert(
		fc.property(fc.array(SEAT, { maxLength: 60 }), fc.integer({ min: 1, max: 9 }), (seats, size) => {
			const parts = partsOf('room', seats, size);
			expect(parts.flatMap((part) => part.seats)).toEqual(seats);
			expect(parts.slice(0, -1).every((part) => part.seats.length === size)).toBe(true);
			expect(new Set(parts.map((part) => part.key)).size).toBe(parts.length);
		})
	);
});

const BOX = fc.record({
	left: fc.integer({ min: 0, max: 900 }),
	top: fc.integer({ min: 0, max: 900 }),
	width: fc.constant(40),
	height: fc.constant(30)
});

test('an arrow key never leads back, and finds somebody wherever somebody stands', () => {
	const ways = {
		ArrowRight: ['left', 1],
		ArrowLeft: ['left', -1],
		ArrowDown: ['top', 1],
		ArrowUp: ['top', -1]
	} as const;
	fc.assert(
		fc.property(
			BOX,
			fc.array(BOX, { maxLength: 12 }),
			fc.constantFrom(...Object.keys(ways)),
			(from, boxes, key) => {
				const [side, sign] = ways[key as keyof typeof ways];
				const ahead = boxes.map((box) => sign * (box[side] - from[side]));
				const to = nearest(key, from, boxes);
				if (to < 0) expect(Math.max(0, ...ahead)).toBeLessThanOrEqual(4);
				else expect(ahead[to]).toBeGreaterThan(4);
			}
		)
	);
});

const BYTES = fc.uint8Array({ maxLength: 60 });

test('a level stays within its width, on the side of its distance, outside of the norm', () => {
	fc.assert(
		fc.property(
			fc.double({ min: -1000, max: 1000, noNaN: true }).filter((far) => far !== 0),
			(distance) => {
				const gauge = gaugeOf('off-norm', distance);
				const { place, bar, tick } = gauge;
				expect(Math.sign(place - 50)).toBe(Math.sign(distance));
				expect(place < NOTCHES[0] || place > NOTCHES[1]).toBe(true);
				for (const x of [place, ...(bar ?? []), tick ?? 50]) expect(x >= 0 && x <= 100).toBe(true);
				expect((bar?.[0] ?? 0) <= (bar?.[1] ?? 0)).toBe(true);
				expect(tick !== undefined).toBe(Math.abs(distance) > 6);
				const mirrored = gaugeOf('off-norm', -distance).place;
				expect(mirrored + place).toBeCloseTo(100, 9);
			}
		)
	);
});

test('a mark further from the norm never stands nearer', () => {
	const far = fc.double({ min: 0.001, max: 100, noNaN: true });
	fc.assert(
		fc.property(far, far, (one, other) => {
			const [near, away] = [Math.min(one, other), Math.max(one, other)];
			expect(gaugeOf('off-norm', near).place).toBeLessThanOrEqual(gaugeOf('off-norm', away).place);
		})
	);
});

test('every byte of the grid is a cell, and off norm exactly where it says so', () => {
	fc.assert(
		fc.property(fc.integer({ min: 0, max: 255 }), (byte) => {
			const cell = cellOf(byte);
			expect(cell.status === 'off-norm').toBe(isOff(byte));
			expect(cell.distance === null || Math.abs(cell.distance) <= 8).toBe(true);
		})
	);
});

test('causes stand at cells off norm and nowhere else', () => {
	fc.assert(
		fc.property(BYTES, (cells) => {
			const off = [...cells].filter((byte) => isOff(byte)).length;
			const packed = Uint8Array.from({ length: off * 2 }, (_, place) => (place % 2 ? 0 : place % 200));
			const causes = causesOf(cells, packed);
			cells.forEach((byte, place) => expect(causes[place] === NO_CAUSE).toBe(!isOff(byte)));
		})
	);
});

test('the seats that are off are those with an off cell in their column', () => {
	fc.assert(
		fc.property(BYTES, fc.integer({ min: 1, max: 7 }), (cells, seats) => {
			const off = seatsOff(cells, seats);
			for (let seat = 0; seat < seats; seat++)
				expect(off.has(seat)).toBe([...cells].some((byte, place) => place % seats === seat && isOff(byte)));
		})
	);
});

test('columns are the seats that are shown, each once, in groups side by side', () => {
	const seats = fc.array(
		fc.record({
			name: NAME,
			room: fc.constantFrom('', 'Loft', 'Pan House'),
			hardware_class: fc.constantFrom('', 'small', 'large'),
			production: fc.constantFrom('', 'nine lamps'),
			role: fc.constantFrom('', 'online')
		}) as unknown as fc.Arbitrary<GridSeat>,
		{ maxLength: 20 }
	);
	fc.assert(
		fc.property(seats, fc.constantFrom(...GROUPINGS), fc.integer({ min: 1, max: 3 }), (list, by, each) => {
			const shown = (seat: number): boolean => seat % each === 0;
			const columns = columnsOf(list, by, shown);
			expect([...columns.seats].sort((a, b) => a - b)).toEqual([...list.keys()].filter(shown));
			let from = 0;
			for (const group of columns.groups) {
				expect(group.from).toBe(from);
				for (const seat of columns.seats.slice(from, from + group.count))
					expect(list[seat]?.[by] || 'none').toBe(group.name);
				from += group.count;
			}
			expect(from).toBe(columns.seats.length);
		})
	);
});

test('lines name each family once before its settings, and only those off norm where that is asked', () => {
	const rows = fc
		.array(fc.record({ family: fc.integer({ min: 0, max: 3 }), off: fc.nat(3) }), { maxLength: 12 })
		.map((list) =>
			[...list]
				.sort((a, b) => a.family - b.family)
				.map(({ family, off }, number) => ({
					family: `f${family}`,
					family_title: `Family ${family}`,
					setting: `s${number}`,
					title: `Setting ${number}`,
					app: null,
					off
				}))
		) as unknown as fc.Arbitrary<Parameters<typeof linesOf>[0]>;
	fc.assert(
		fc.property(rows, fc.boolean(), (list, only) => {
			const lines = linesOf(list, (app) => app, only);
			const shown = list.filter((row) => !only || row.off);
			expect(lines.filter((line) => line.kind === 'row')).toHaveLength(shown.length);
			const headings = lines.filter((line) => line.kind === 'family').map((line) => line.key);
			expect(headings).toEqual([...new Set(shown.map((row) => row.family))]);
		})
	);
});

test('a stacked name fits, and keeps the end of each part', () => {
	fc.assert(
		fc.property(fc.string({ maxLength: 30 }), (name) => {
			const [head, tail] = stacked(name);
			expect(head.length).toBeLessThanOrEqual(6);
			expect(tail.length).toBeLessThanOrEqual(5);
			expect(name.endsWith(tail)).toBe(true);
		})
	);
});
