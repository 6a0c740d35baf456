import type { Schemas } from '../../api/client';

/** Where seats stand that the register puts into no room. */
export const CORRIDOR = 'Corridor';

export type Place = Schemas['PlaceOut'];
export type Room = { name: string; role: string; seats: Place[] };

/** The rooms of the plan with the seats that fit, in their order; rooms without any are left out. */
export function roomsOf(
	plan: readonly Schemas['RoomOut'][],
	fits: (seat: Place) => boolean = () => true
): Room[] {
	return plan
		.map(({ name, seats }) => ({ name: name || CORRIDOR, seats: seats.filter(fits) }))
		.filter((room) => room.seats.length)
		.map((room) => ({ ...room, role: common(room.seats) }));
}

/** Every seat of these rooms. */
export function seatsOf(rooms: readonly { seats: Place[] }[]): Place[] {
	return rooms.flatMap((room) => room.seats);
}

/** Seats that were heard at least once: there is something to look at. */
export function heardOf(plan: readonly Schemas['RoomOut'][]): Place[] {
	return seatsOf(plan).filter((seat) => seat.presence !== 'never');
}

export type Group = { key: string; field: 'role' | 'room' | 'production'; value: string; told: string };

/** What seats can be spoken of together by: their roles, their rooms, their productions. */
export function groupsOf(plan: readonly Schemas['RoomOut'][]): Group[] {
	const seats = seatsOf(plan);
	const names = {
		role: seats.map((seat) => seat.role),
		room: plan.map((room) => room.name),
		production: seats.map((seat) => seat.production)
	};
	return (['role', 'room', 'production'] as const).flatMap((field) =>
		[...new Set(names[field].filter(Boolean))]
			.sort()
			.map((value) => ({ key: `${field}/${value}`, field, value, told: `${field} ${value}` }))
	);
}

/** What is drawn in one go: as many as stand side by side in the widest room. */
export const BAND = 8;
/** What is looked for in sight, before its bands are. */
export const WING = 32 * BAND;

export type Part = { key: string; seats: Place[] };

/** Seats cut into parts of that size; a part that is cut again lends its key. */
export function partsOf(key: string, seats: readonly Place[], size: number): Part[] {
	return Array.from({ length: Math.ceil(seats.length / size) }, (_, number) => ({
		key: `${key}/${number}`,
		seats: seats.slice(number * size, (number + 1) * size)
	}));
}

function common(seats: readonly Place[]): string {
	const first = seats[0]?.role ?? '';
	return seats.every((seat) => seat.role === first) ? first : '';
}

type Box = { left: number; top: number; width: number; height: number };

const ARROWS: Record<string, [number, number]> = {
	ArrowRight: [1, 0],
	ArrowLeft: [-1, 0],
	ArrowDown: [0, 1],
	ArrowUp: [0, -1]
};

/** The nearest box in the direction of an arrow key, measured from the middle of `from`. */
export function nearest(key: string, from: Box, boxes: readonly Box[]): number {
	const [dx, dy] = ARROWS[key] ?? [0, 0];
	let best = -1;
	let least = Infinity;
	boxes.forEach((box, index) => {
		const x = box.left + box.width / 2 - from.left - from.width / 2;
		const y = box.top + box.height / 2 - from.top - from.height / 2;
		const along = x * dx + y * dy;
		// Sideways counts double: an arrow means its own direction.
		const far = along + 2 * Math.abs(x * dy + y * dx);
		if (along > 4 && far < least) [best, least] = [index, far];
	});
	return best;
}
