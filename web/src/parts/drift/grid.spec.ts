import { beforeEach, describe, expect, test, vi } from 'vitest';
import { render } from 'vitest-browser-svelte';
import { userEvent } from 'vitest/browser';
import type { Schemas } from '../../api/client';
import { columnsOf, linesOf } from '../../model/house/grid';
import { DriftCells } from '../../state/drift.svelte';
import AsOf from './AsOf.svelte';
import DriftGrid from './DriftGrid.svelte';
import { CELL, HEAD } from './gridPaint';
import PointedCell from './PointedCell.svelte';

const [IN, OFF] = [1, 4];
const ROWS = [
	{ setting: 'memory.held_back', title: 'Held back', family: 'memory', family_title: 'Memory', off: 2 },
	{ setting: 'power.profile', title: 'Power profile', family: 'power', family_title: 'Power', off: 1 }
];
const TOLD = {
	edition: 1,
	at: null,
	sentence: '',
	seats: ['pan-01', 'pan-02', 'pan-03'].map((name) => ({ name, room: 'Pan House' })),
	rows: ROWS.map((row) => ({ ...row, app: null, remote: true, unread: 0, waived: 0 })),
	causes: [],
	cells: btoa(String.fromCharCode(OFF, IN, OFF, IN, OFF, IN)),
	cause_of: btoa('\0\0\x01\0\x01\0')
} as unknown as Schemas['GridOut'];

describe('Drift', () => {
	let drift: DriftCells;
	const onopen = vi.fn();
	const grid = async () => {
		const lines = linesOf(drift.rows, (app) => app);
		const screen = await render(DriftGrid, {
			drift,
			lines,
			columns: columnsOf(drift.seats, 'room'),
			words: '',
			wide: false,
			onopen
		});
		return { screen, cells: screen.getByRole('grid') };
	};

	beforeEach(() => {
		drift = new DriftCells();
		drift.take(TOLD);
		onopen.mockClear();
	});

	test('says the cell that has the focus, and goes on to what is off norm', async () => {
		const { screen, cells } = await grid();
		(cells.element() as HTMLElement).focus();
		await expect.element(screen.getByText('pan-01, Held back: off norm')).toBeInTheDocument();
		await userEvent.keyboard('n');
		await expect.element(screen.getByText('pan-03, Held back: off norm')).toBeInTheDocument();
		await userEvent.keyboard('{ArrowDown}{ArrowLeft}');
		await expect.element(screen.getByText('pan-02, Power profile: off norm')).toBeInTheDocument();
	});

	test('chooses by keys and opens the seat', async () => {
		const { cells } = await grid();
		(cells.element() as HTMLElement).focus();
		await userEvent.keyboard('r');
		expect([...drift.chosen.all].sort()).toEqual([0, 2]);
		await userEvent.keyboard('{Enter}');
		expect(onopen).toHaveBeenCalledWith('pan-01');
	});

	test('chooses the cell under the pointer, a seat by its head, a row by its name', async () => {
		const { screen, cells } = await grid();
		const at = (column: number, line: number) => ({
			position: { x: (column + 0.5) * CELL.width, y: line < 0 ? 20 : HEAD + (line + 0.5) * CELL.height }
		});
		await cells.click(at(0, 1));
		expect(drift.chosen.all).toEqual([0]);
		await cells.click(at(1, -1));
		expect([...drift.chosen.all].sort()).toEqual([0, 4]);
		await screen.getByRole('button', { name: 'Held back' }).click();
		expect([...drift.chosen.all].sort()).toEqual([0, 2, 4]);
	});

	test('is painted: what is off norm in a colour that nothing in norm has', async () => {
		await grid();
		const canvas = document.querySelector('canvas');
		const warm = (column: number): number => {
			const [x, y] = [column * CELL.width + 1, HEAD + CELL.height + 2].map(
				(place) => place * devicePixelRatio
			);
			const image = canvas?.getContext('2d')?.getImageData(x ?? 0, y ?? 0, CELL.width - 2, CELL.height - 3);
			const data = image?.data ?? [];
			return Array.from({ length: data.length / 4 }, (_, pixel) => pixel * 4).filter(
				(at) => (data[at + 3] ?? 0) > 200 && (data[at] ?? 0) > 2 * (data[at + 2] ?? 0)
			).length;
		};
		await vi.waitFor(() => expect(warm(0)).toBeGreaterThan(10));
		expect(warm(1)).toBe(0);
	});
});

test('a cell is told in the words of the server, with its seat and its cure', async () => {
	const cell = { status: 'off-norm', words: 'Held back is 1 GiB', since: null, fix: '6.4 GiB' };
	const screen = await render(PointedCell, { seat: 'pan-03', cell: cell as Schemas['CellToldOut'] });
	await expect
		.element(screen.container)
		.toHaveTextContent('pan-03: Held back is 1 GiB. Correction: 6.4 GiB.');
	const none = await render(PointedCell, { seat: '', cell: undefined });
	await expect.element(none.container).toHaveTextContent('Point at a cell');
});

test('as of goes back by hours, and at its end is now', async () => {
	const onchoose = vi.fn();
	const screen = await render(AsOf, { at: '', onchoose });
	const slider = screen.getByRole('slider');
	await slider.fill(String(30 * 24 - 48));
	const hours = (Date.now() - Date.parse(onchoose.mock.lastCall?.[0] as string)) / 3_600_000;
	expect(hours).toBeCloseTo(48, 1);
	await slider.fill(String(30 * 24));
	expect(onchoose).toHaveBeenLastCalledWith('');
});
