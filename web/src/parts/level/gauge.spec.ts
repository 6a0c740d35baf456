/** The level that is drawn and the one that is painted, held against each other in a real browser. */
import { expect, test } from 'vitest';
import { render } from 'vitest-browser-svelte';
import { cellOf } from '../../model/house/grid';
import { ASIDE, CELL, inkOf, MARK, paintLevel } from '../drift/gridPaint';
import Level from './Level.svelte';

const OFF = 4;
const [MUST, FAR, MIDDLE] = [8, 4, 8]; // as the server packs a cell: core's `cells.py`
const byteOf = (status: number, octaves: number | null, must = false): number =>
	status | (must ? MUST : 0) | (octaves === null ? 0 : (octaves + MIDDLE) << FAR);
const ENLARGED = 8; // each pixel of the painted level is looked at in so many parts
const WITHIN = 1.3; // pixels: half of a line, and what a browser rounds

type Span = { from: number; to: number };
const WIDTH = CELL.width - 2 * ASIDE;

/** Where the drawn level has the colour of what is off norm: its bar, its mark and its tick. */
async function drawn(byte: number): Promise<Span> {
	const { status, must, distance } = cellOf(byte);
	const severity = must ? 'must' : 'should';
	const { container } = await render(Level, { status, distance, severity, words: 'told' });
	const level = container.querySelector<HTMLElement>('.level');
	const mark = level?.querySelector('i');
	if (!level || !mark) throw new Error('no mark was drawn');
	Object.assign(level.style, { width: `${WIDTH}px`, height: `${CELL.height}px` });
	level.style.setProperty('--mark', `${MARK}px`);
	mark.style.transition = 'none';
	const [own, box] = [level.getBoundingClientRect(), mark.getBoundingClientRect()];
	const spans = [{ from: box.left - own.left, to: box.right - own.left }];
	for (const [part, shown] of [
		['::before', level.classList.contains('square')],
		['::after', level.classList.contains('capped')]
	] as const) {
		if (!shown) continue;
		const { left, width } = getComputedStyle(level, part);
		spans.push({ from: Number.parseFloat(left), to: Number.parseFloat(left) + Number.parseFloat(width) });
	}
	return { from: Math.min(...spans.map((span) => span.from)), to: Math.max(...spans.map((span) => span.to)) };
}

/** The same of the painted one, by the pixels of that colour. */
function painted(byte: number): Span {
	const canvas = document.createElement('canvas');
	[canvas.width, canvas.height] = [CELL.width * ENLARGED, CELL.height * ENLARGED];
	const context = canvas.getContext('2d', { willReadFrequently: true });
	if (!context) throw new Error('no canvas');
	context.scale(ENLARGED, ENLARGED);
	const ink = { ...inkOf(document.documentElement), sienna: '#ff0000', oxblood: '#ff0000', plum: '#ff0000' };
	paintLevel(context, byte, 0, 0, ink);
	const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
	const columns: number[] = [];
	for (let place = 0; place < data.length; place += 4) {
		const [red = 0, green = 0, blue = 0, alpha = 0] = data.slice(place, place + 4);
		if (red > 200 && green < 60 && blue < 60 && alpha > 200) columns.push((place / 4) % canvas.width);
	}
	const inLevel = (column: number): number => column / ENLARGED - ASIDE;
	return { from: inLevel(Math.min(...columns)), to: inLevel(Math.max(...columns) + 1) };
}

const STATES: [string, number][] = [
	['differs', byteOf(OFF, null)],
	['waived', byteOf(3, null)],
	...[-7, -6, -3, -1, 1, 3, 6, 7].map((octaves): [string, number] => [
		`${octaves} octaves`,
		byteOf(OFF, octaves, octaves > 0)
	])
];

test.each(STATES)('%s stands at the same place drawn and painted', async (_, byte) => {
	const [here, there] = [await drawn(byte), painted(byte)];
	expect(Math.abs(here.from - there.from)).toBeLessThan(WITHIN);
	expect(Math.abs(here.to - there.to)).toBeLessThan(WITHIN);
});

test('what must be so has a colour of its own, by the same name in both', async () => {
	const { container } = await render(Level, {
		status: 'off-norm',
		distance: -2,
		severity: 'must',
		words: 'told'
	});
	const mark = container.querySelector('i');
	if (!mark) throw new Error('no mark was drawn');
	const probe = document.createElement('i');
	probe.style.color = inkOf(document.documentElement).oxblood;
	document.body.append(probe);
	expect(getComputedStyle(mark).backgroundColor).toBe(getComputedStyle(probe).color);
	probe.remove();
});
