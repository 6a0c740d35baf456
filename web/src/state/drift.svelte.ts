/* eslint-disable svelte/prefer-svelte-reactivity -- maps here are made and handed on, never watched */
import type { Schemas } from '../api/client';
import { bytesOf, causesOf, isOff, type Columns, type Line } from '../model/house/grid';
import { Selection } from './selection.svelte';

export type Focus = { line: number; column: number };

/** The cells of a house, which of them are chosen, and which has the focus. */
export class DriftCells {
	readonly chosen = new Selection<number>();
	#told = $state.raw<Schemas['GridOut']>();
	#cells = $state.raw<Uint8Array>(new Uint8Array());
	#causes = $state.raw<Uint16Array>(new Uint16Array());
	#focus = $state<Focus | null>(null);

	get seats(): Schemas['GridSeatOut'][] {
		return this.#told?.seats ?? [];
	}
	get rows(): Schemas['GridRowOut'][] {
		return this.#told?.rows ?? [];
	}
	get causes(): Schemas['CauseOut'][] {
		return this.#told?.causes ?? [];
	}
	get cells(): Uint8Array {
		return this.#cells;
	}
	get causeAt(): Uint16Array {
		return this.#causes;
	}
	get focus(): Focus | null {
		return this.#focus;
	}

	/** What the server says now; what was chosen stays chosen where it is still off norm. */
	take(told: Schemas['GridOut']): void {
		const kept = this.places(this.chosen.all);
		this.#told = told;
		this.#cells = bytesOf(told.cells);
		this.#causes = causesOf(this.#cells, bytesOf(told.cause_of));
		this.chosen.set(this.#found(kept));
	}

	point(focus: Focus | null): void {
		this.#focus = focus;
	}

	place(row: number, seat: number): number {
		return row * this.seats.length + seat;
	}

	toggle(place: number): void {
		if (isOff(this.#cells[place])) this.chosen.toggle(place);
	}

	/** Choose every cell of these that is off norm, or let go of them where all of them are chosen. */
	toggleAll(places: Iterable<number>): void {
		const off = [...places].filter((place) => isOff(this.#cells[place]));
		const all = off.every((place) => this.chosen.has(place));
		const others = this.chosen.all.filter((place) => !off.includes(place) || !all);
		this.chosen.set(all ? others : [...this.chosen.all, ...off]);
	}

	/** The places of a line, a cause's own alone. */
	*ofLine(line: Line, columns: Columns): Iterable<number> {
		if (line.kind === 'family') return;
		for (const seat of columns.seats) {
			const place = this.place(line.row, seat);
			if (line.cause === null || this.#causes[place] === line.cause) yield place;
		}
	}

	*ofSeat(seat: number): Iterable<number> {
		for (let row = 0; row < this.rows.length; row++) yield this.place(row, seat);
	}

	*ofCause(cause: number): Iterable<number> {
		for (let place = 0; place < this.#causes.length; place++) if (this.#causes[place] === cause) yield place;
	}

	*everywhere(): Iterable<number> {
		for (let place = 0; place < this.#cells.length; place++) yield place;
	}

	/** Chosen places as the server is asked for them: seats by setting and application. */
	places(chosen: Iterable<number>): Schemas['PlaceIn'][] {
		const found = new Map<number, Schemas['PlaceIn']>();
		for (const place of chosen) {
			const row = Math.floor(place / this.seats.length);
			const [told, seat] = [this.rows[row], this.seats[place % this.seats.length]];
			if (!told || !seat) continue;
			const at = found.get(row) ?? { setting: told.setting, app: told.app, seats: [] };
			at.seats.push(seat.name);
			found.set(row, at);
		}
		return [...found.values()];
	}

	#found(kept: Schemas['PlaceIn'][]): number[] {
		const seats = new Map(this.seats.map((seat, number) => [seat.name, number]));
		return kept.flatMap(({ setting, app, seats: names }) => {
			const row = this.rows.findIndex((told) => told.setting === setting && told.app === (app ?? null));
			const places = names.map((name) => this.place(row, seats.get(name) ?? -1));
			return row < 0 ? [] : places.filter((place) => isOff(this.#cells[place]));
		});
	}
}
