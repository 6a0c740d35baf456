import { cellOf, type Columns, type GridSeat, type Line } from '../model/house/grid';
import type { DriftCells, Focus } from './drift.svelte';

type Sheet = { lines: readonly Line[]; columns: Columns };

const STEPS: Record<string, [number, number]> = {
	ArrowUp: [-1, 0],
	ArrowDown: [1, 0],
	ArrowLeft: [0, -1],
	ArrowRight: [0, 1]
};

/** Going about the grid of drift: which cell has the focus, where a key leads, and what it chooses. */
export class DriftWalk {
	readonly #drift: DriftCells;
	readonly #sheet: () => Sheet;

	constructor(drift: DriftCells, sheet: () => Sheet) {
		this.#drift = drift;
		this.#sheet = sheet;
	}

	get line(): Line | undefined {
		return this.#sheet().lines[this.#drift.focus?.line ?? -1];
	}

	get seat(): GridSeat | undefined {
		return this.#drift.seats[this.#sheet().columns.seats[this.#drift.focus?.column ?? -1] ?? -1];
	}

	/** How the cell with the focus stands, in a word. */
	get status(): string {
		const place = this.placeOf(this.#drift.focus);
		return place < 0 ? '' : cellOf(this.#drift.cells[place] ?? 0).status.replace('-', ' ');
	}

	/** The first cell that there is. */
	get first(): Focus {
		return { line: this.#sheet().lines[0]?.kind === 'family' ? 1 : 0, column: 0 };
	}

	/** The place of a cell among all cells, -1 where there is none. */
	placeOf(at: Focus | null): number {
		const { lines, columns } = this.#sheet();
		const [line, seat] = [lines[at?.line ?? -1], columns.seats[at?.column ?? -1]];
		return line?.kind === 'row' && seat !== undefined ? this.#drift.place(line.row, seat) : -1;
	}

	/** Where a key leads from the focus; undefined for a key that leads nowhere. */
	to(key: string): Focus | undefined {
		const here = this.#drift.focus ?? { line: 0, column: 0 };
		const step = STEPS[key];
		if (step) return this.#stepped(here, step);
		if (key === 'Home') return { ...here, column: 0 };
		if (key === 'End') return { ...here, column: this.#sheet().columns.seats.length - 1 };
		return key === 'n' ? (this.#nextOff(here) ?? here) : undefined;
	}

	/** Choose by a key: the cell, its row, its seat or its cause. Whether the key does so. */
	choose(key: string): boolean {
		const choices: Record<string, () => void> = {
			' ': () => this.#drift.toggle(this.placeOf(this.#drift.focus)),
			r: () => this.line && this.#drift.toggleAll(this.#drift.ofLine(this.line, this.#sheet().columns)),
			s: () => this.toggleSeat(this.#drift.focus?.column ?? 0),
			g: () => this.#drift.toggleAll(this.#drift.ofCause(this.#causeHere()))
		};
		choices[key]?.();
		return Object.hasOwn(choices, key);
	}

	toggleSeat(column: number): void {
		const seat = this.#sheet().columns.seats[column];
		if (seat !== undefined) this.#drift.toggleAll(this.#drift.ofSeat(seat));
	}

	/** A cell, or all of a rectangle that was drawn from one to another. */
	toggleBetween(from: Focus, to: Focus): void {
		if (from.line === to.line && from.column === to.column) {
			const place = this.placeOf(from);
			if (place >= 0) this.#drift.toggle(place);
		} else this.#drift.toggleAll(this.#between(from, to));
	}

	*#between(from: Focus, to: Focus): Iterable<number> {
		const { lines, columns } = this.#sheet();
		const [left, right] = [Math.min(from.column, to.column), Math.max(from.column, to.column)];
		const cut = { ...columns, seats: columns.seats.slice(left, right + 1) };
		const rows = lines.slice(Math.min(from.line, to.line), Math.max(from.line, to.line) + 1);
		for (const line of rows) yield* this.#drift.ofLine(line, cut);
	}

	#stepped(from: Focus, [down, right]: [number, number]): Focus {
		const { lines, columns } = this.#sheet();
		let line = from.line + down;
		while (lines[line]?.kind === 'family') line += down || 1;
		const column = Math.min(Math.max(from.column + right, 0), columns.seats.length - 1);
		return { line: lines[line] ? line : from.line, column };
	}

	/** The next cell that is off norm, line by line. */
	#nextOff(from: Focus): Focus | undefined {
		const { lines, columns } = this.#sheet();
		const cells = lines.length * columns.seats.length;
		for (let at = from.line * columns.seats.length + from.column + 1; at < cells; at++) {
			const focus = { line: Math.floor(at / columns.seats.length), column: at % columns.seats.length };
			if (this.#isOff(lines[focus.line], this.placeOf(focus))) return focus;
		}
		return undefined;
	}

	/** On a line of one cause its own cells alone are there. */
	#isOff(line: Line | undefined, place: number): boolean {
		if (line?.kind !== 'row' || (line.cause !== null && this.#drift.causeAt[place] !== line.cause))
			return false;
		return cellOf(this.#drift.cells[place] ?? 0).status === 'off-norm';
	}

	#causeHere(): number {
		return this.#drift.causeAt[this.placeOf(this.#drift.focus)] ?? -1;
	}
}
