import { beforeEach, describe, expect, it } from 'vitest';
import type { Schemas } from '../api/client';
import { DriftCells } from './drift.svelte';

const [IN, OFF, MUST] = [1, 4, 12];

/** A grid of these rows, each a cell for each seat; causes are given to the cells that are off norm, in order. */
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
