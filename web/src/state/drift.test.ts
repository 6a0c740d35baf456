import { beforeEach, describe, expect, it } from 'vitest';
import type { Schemas } from '../api/client';
import type { Line } from '../model/house/grid';
import { DriftCells } from './drift.svelte';
import { DriftWalk } from './driftWalk.svelte';

const [IN, OFF, MUST] = [1, 4, 12];

/** A grid of these rows, each a cell for each seat; causes are given to the cells off norm, in order. */
function grid(seats: string[], rows: Record<string, number[]>, causes: number[]): Schemas['GridOut'] {
	const cells = Object.values(rows).flat();
	return {
		seats: seats.map((name) => ({ name })),
		rows: Object.keys(rows).map((key) => {
			const [setting, app] = key.split(' ');
			return { setting, app: app ?? null };
		}),
		causes: [],
		cells: btoa(String.fromCharCode(...cells)),
		cause_of: btoa(causes.map((cause) => String.fromCharCode(cause & 255, cause >> 8)).join(''))
	} as unknown as Schemas['GridOut'];
}

describe('the cells of a house', () => {
	let cells: DriftCells;

	beforeEach(() => {
		cells = new DriftCells();
		const rows = { 'memory.held_back corrow': [OFF, IN, MUST], 'power.profile': [IN, OFF, OFF] };
		cells.take(grid(['a', 'b', 'c'], rows, [0, 1, 1, 0]));
	});

	it('chooses what is off norm alone', () => {
		cells.toggle(0);
		cells.toggle(1);
		expect(cells.chosen.all).toEqual([0]);
		cells.toggle(0);
		expect(cells.chosen.size).toBe(0);
	});

	it('chooses all of some cells, or lets go of them where all were chosen', () => {
		cells.toggle(0);
		cells.toggleAll(cells.ofSeat(2));
		expect([...cells.chosen.all].sort()).toEqual([0, 2, 5]);
		cells.toggleAll(cells.ofSeat(2));
		expect(cells.chosen.all).toEqual([0]);
		cells.toggleAll(cells.everywhere());
		expect(cells.chosen.size).toBe(4);
	});

	it('knows the cells of a cause, and those of a line that are its own', () => {
		expect([...cells.ofCause(1)]).toEqual([2, 4]);
		const line = { kind: 'row', key: '', title: '', told: '', row: 1, cause: 0 } as const;
		const columns = { seats: [2, 1, 0], groups: [] };
		expect([...cells.ofLine(line, columns)]).toEqual([5]);
		expect([...cells.ofLine({ ...line, cause: null }, columns)]).toEqual([5, 4, 3]);
		expect([...cells.ofLine({ kind: 'family', key: '', title: '' }, columns)]).toEqual([]);
	});

	it('asks for what was chosen by setting and application', () => {
		expect(cells.places([0, 2, 4])).toEqual([
			{ setting: 'memory.held_back', app: 'corrow', seats: ['a', 'c'] },
			{ setting: 'power.profile', app: null, seats: ['b'] }
		]);
		expect(cells.places([99])).toEqual([]);
	});

	it('keeps what was chosen by its name, when seats and rows move', () => {
		cells.chosen.set([0, 2, 4]);
		const rows = { 'power.profile': [OFF, IN], 'memory.held_back corrow': [OFF, IN] };
		cells.take(grid(['b', 'a'], rows, [0, 0]));
		expect(cells.places(cells.chosen.all)).toEqual([{ setting: 'power.profile', app: null, seats: ['b'] }]);
	});
});

describe('going about the grid', () => {
	const row = (number: number, cause: number | null = null): Line => ({
		kind: 'row',
		key: String(number),
		title: '',
		told: '',
		row: number,
		cause
	});
	const family: Line = { kind: 'family', key: 'f', title: '' };
	let cells: DriftCells;
	let walk: DriftWalk;

	beforeEach(() => {
		cells = new DriftCells();
		const rows = { 'memory.held_back corrow': [OFF, IN, MUST], 'power.profile': [IN, OFF, OFF] };
		cells.take(grid(['a', 'b', 'c'], rows, [0, 1, 1, 0]));
		const sheet = { lines: [family, row(0), family, row(1)], columns: { seats: [2, 1, 0], groups: [] } };
		walk = new DriftWalk(cells, () => sheet);
	});

	it('begins below the first heading, and steps over headings', () => {
		expect(walk.first).toEqual({ line: 1, column: 0 });
		cells.point(walk.first);
		expect(walk.to('ArrowDown')).toEqual({ line: 3, column: 0 });
		expect(walk.to('ArrowLeft')).toEqual({ line: 1, column: 0 });
		expect([walk.to('End'), walk.to('x')]).toEqual([{ line: 1, column: 2 }, undefined]);
		cells.point({ line: 3, column: 2 });
		expect(walk.to('ArrowDown')).toEqual({ line: 3, column: 2 });
	});

	it('goes to the next cell that is off norm, and stays where there is none', () => {
		const seen = [];
		cells.point(walk.first);
		for (let times = 0; times < 4; times++) {
			const to = walk.to('n');
			cells.point(to ?? null);
			seen.push([to?.line, to?.column, walk.status]);
		}
		expect(seen).toEqual([
			[1, 2, 'off norm'],
			[3, 0, 'off norm'],
			[3, 1, 'off norm'],
			[3, 1, 'off norm']
		]);
	});

	it('chooses by keys: the cell, its row, its seat, its cause', () => {
		const chosen = (key: string): number[] => {
			cells.chosen.clear();
			expect(walk.choose(key)).toBe(true);
			return [...cells.chosen.all].sort();
		};
		cells.point({ line: 1, column: 0 });
		expect([chosen(' '), chosen('r'), chosen('s'), chosen('g')]).toEqual([[2], [0, 2], [2, 5], [2, 4]]);
		expect(walk.choose('q')).toBe(false);
	});

	it('chooses a rectangle, from whichever corner it was drawn', () => {
		for (const [from, to] of [
			[
				{ line: 1, column: 0 },
				{ line: 3, column: 1 }
			],
			[
				{ line: 3, column: 1 },
				{ line: 1, column: 0 }
			]
		] as const) {
			cells.chosen.clear();
			walk.toggleBetween(from, to);
			expect([...cells.chosen.all].sort()).toEqual([2, 4, 5]);
		}
	});
});
