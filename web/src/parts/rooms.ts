/** Where seats stand that the register puts into no room. */
export const CORRIDOR = 'Corridor';

type Placed = { name: string; room: string; role: string };
export type Room<T> = { name: string; role: string; seats: T[] };

/** Seats by room, in the order in which they come; a seat without a room stands in the corridor. */
export function roomsOf<T extends Placed>(seats: readonly T[]): Room<T>[] {
	const rooms = new Map<string, T[]>();
	for (const seat of seats) {
		const name = seat.room || CORRIDOR;
		rooms.set(name, [...(rooms.get(name) ?? []), seat]);
	}
	return [...rooms].map(([name, found]) => ({ name, role: common(found), seats: found }));
}

function common(seats: readonly Placed[]): string {
	const roles = new Set(seats.map((seat) => seat.role));
	return roles.size === 1 ? ([...roles][0] ?? '') : '';
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
