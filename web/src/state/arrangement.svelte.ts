import { write } from '../api/actions';
import { CORRIDOR } from '../model/house/rooms';

export type Placing = { room: string; seats: string[] };

/** The floor while somebody arranges it: rooms in their order, seats in theirs. */
export class Arrangement {
	#rooms = $state<Placing[]>([]);
	#said = $state('');

	/** `seen` names the floor as it was read: the server refuses to overwrite another. */
	constructor(
		rooms: Placing[],
		private readonly seen = ''
	) {
		this.#rooms = rooms.map(({ room, seats }) => ({ room, seats: [...seats] }));
	}

	get rooms(): Placing[] {
		return this.#rooms;
	}

	/** What was done last, for those who hear it. */
	get said(): string {
		return this.#said;
	}

	/** Put a seat into a room, before the seat at `place`. */
	put(seat: string, room: string, place: number): void {
		const from = this.#rooms.find((one) => one.seats.includes(seat));
		const to = this.#rooms.find((one) => one.room === room);
		if (!from || !to) return;
		const was = from.seats.indexOf(seat);
		const then = from === to && was < place ? place - 1 : place;
		from.seats.splice(was, 1);
		to.seats.splice(Math.max(0, Math.min(then, to.seats.length)), 0, seat);
		this.#said = `${seat}: position ${to.seats.indexOf(seat) + 1} in ${room}`;
	}

	/** One place on within the room, or to the room before or after. */
	step(seat: string, along: number, across: number): void {
		const here = this.#rooms.findIndex((one) => one.seats.includes(seat));
		const room = this.#rooms[here];
		const next = this.#rooms[here + across];
		if (!room) return;
		const place = room.seats.indexOf(seat);
		if (across && next) this.put(seat, next.room, next.seats.length);
		else if (along) this.put(seat, room.room, along > 0 ? place + 2 : place - 1);
	}

	/** Put a room before the one at `place`. */
	putRoom(room: string, place: number): void {
		const was = this.#rooms.findIndex((one) => one.room === room);
		const [moved] = was < 0 ? [] : this.#rooms.splice(was, 1);
		if (!moved) return;
		const then = Math.max(0, Math.min(was < place ? place - 1 : place, this.#rooms.length));
		this.#rooms.splice(then, 0, moved);
		this.#said = `${room}: room ${then + 1}`;
	}

	/** Keep it for everybody. */
	async save(): Promise<void> {
		const rooms = this.#rooms.map(({ room, seats }) => ({ room: room === CORRIDOR ? '' : room, seats }));
		await write.arrangeFloor({ rooms, seen: this.seen });
	}
}
