/** Draws the part of the grid that is in sight. A level has the same shapes here as everywhere. */
import { BASE, gaugeOf, NOTCHES, SHAPES } from '../../model/house/gauge';
import {
	cellOf,
	NO_CAUSE,
	sharedOf,
	stacked,
	type Columns,
	type GridSeat,
	type Line
} from '../../model/house/grid';

export const CELL = { width: 38, height: 24 };
export const ASIDE = 3; // pixels between a level and the next cell
export const MARK = 13; // pixels: the size of marks
export const HEAD = 46; // pixels: the groups, and the seats under them
const GROUP_BASE = 15; // where the words of a group stand

export type Sheet = {
	lines: readonly Line[];
	columns: Columns;
	seats: readonly GridSeat[];
	cells: Uint8Array;
	causes: Uint16Array;
	chosen: ReadonlySet<number>;
	focus: { line: number; column: number } | null;
};
export type Ink = Record<
	| 'paper'
	| 'sheet'
	| 'ink'
	| 'muted'
	| 'rule'
	| 'hair'
	| 'kelp'
	| 'whisper'
	| 'sienna'
	| 'oxblood'
	| 'plum'
	| 'slate'
	| 'wash',
	string
>;
export type Window = { left: number; top: number; width: number; height: number };

const INKS = 'paper sheet ink muted rule hair kelp whisper sienna oxblood plum slate wash'.split(' ');

export function inkOf(element: Element): Ink {
	const style = getComputedStyle(element);
	return Object.fromEntries(INKS.map((name) => [name, style.getPropertyValue(`--${name}`).trim()])) as Ink;
}

export function paint(context: CanvasRenderingContext2D, sheet: Sheet, window: Window, ink: Ink): void {
	context.clearRect(0, 0, window.width, window.height);
	const first = Math.floor(window.left / CELL.width);
	const last = Math.min(sheet.columns.seats.length, Math.ceil((window.left + window.width) / CELL.width));
	const top = Math.floor(window.top / CELL.height);
	const bottom = Math.min(sheet.lines.length, Math.ceil((window.top + window.height - HEAD) / CELL.height));
	context.save();
	context.beginPath();
	context.rect(0, HEAD, window.width, window.height - HEAD);
	context.clip();
	for (let number = top; number < bottom; number++) {
		const line = sheet.lines[number];
		const y = HEAD + number * CELL.height - window.top;
		if (line?.kind !== 'row') continue;
		context.fillStyle = ink.hair;
		context.fillRect(0, y, (last - first) * CELL.width + CELL.width, 1);
		for (let column = first; column < last; column++) {
			const seat = sheet.columns.seats[column] ?? 0;
			const place = line.row * sheet.seats.length + seat;
			const x = column * CELL.width - window.left;
			if (sheet.chosen.has(place) && isOf(line, sheet.causes[place])) {
				context.fillStyle = ink.wash;
				context.fillRect(x, y + 1, CELL.width, CELL.height - 1);
			}
			if (isOf(line, sheet.causes[place])) paintLevel(context, sheet.cells[place] ?? 0, x, y, ink);
			if (sheet.focus?.line === number && sheet.focus.column === column) {
				context.strokeStyle = ink.kelp;
				context.lineWidth = 2;
				context.strokeRect(x + 1, y + 2, CELL.width - 2, CELL.height - 3);
			}
		}
	}
	context.restore();
	heads(context, sheet, window, ink);
}

/** On a line of one cause its cells alone are drawn. */
function isOf(line: Extract<Line, { kind: 'row' }>, cause: number | undefined): boolean {
	return line.cause === null || line.cause === (cause ?? NO_CAUSE);
}

function heads(context: CanvasRenderingContext2D, sheet: Sheet, window: Window, ink: Ink): void {
	for (const group of sheet.columns.groups) {
		const x = group.from * CELL.width - window.left;
		const end = x + group.count * CELL.width;
		if (end < 0 || x > window.width) continue;
		context.fillStyle = ink.rule;
		context.fillRect(x, 2, 1, window.height);
		context.save();
		context.beginPath();
		context.rect(Math.max(0, x), 0, end - Math.max(0, x) - 4, HEAD);
		context.clip();
		context.fillStyle = ink.ink;
		context.font = '600 13.5px "Bricolage Grotesque Variable", sans-serif';
		context.fillText(group.name, Math.max(0, x) + 6, GROUP_BASE);
		context.fillStyle = ink.muted;
		const from = Math.max(0, Math.floor(-x / CELL.width));
		const to = Math.min(group.count, Math.ceil((window.width - x) / CELL.width));
		const all = sheet.columns.seats.slice(group.from, group.from + group.count);
		const shared = sharedOf(all.map((seat) => sheet.seats[seat]?.name ?? ''));
		all.slice(from, to).forEach((seat, number) => {
			const name = sheet.seats[seat]?.name ?? '';
			const middle = x + (from + number + 0.5) * CELL.width;
			const [head, tail] = shared ? ['', name.slice(shared.length).slice(-5)] : stacked(name);
			const face = '"Atkinson Hyperlegible Mono Variable", monospace';
			centred(context, head, middle, HEAD - 17, `10px ${face}`);
			centred(context, tail, middle, HEAD - 5, `12px ${face}`);
		});
		context.restore();
	}
}

function centred(context: CanvasRenderingContext2D, text: string, x: number, y: number, font: string): void {
	context.font = font;
	context.fillText(text, x - context.measureText(text).width / 2, y);
}

/** A level in its cell. In norm it is a dot without notches: a house in norm is a quiet sheet. */
export function paintLevel(
	context: CanvasRenderingContext2D,
	byte: number,
	x: number,
	y: number,
	ink: Ink
): void {
	const { status, must, distance } = cellOf(byte);
	if (status === 'no-norm') return;
	const gauge = gaugeOf(status, status === 'off-norm' ? distance : null);
	const [from, width, base] = [x + ASIDE, CELL.width - 2 * ASIDE, Math.round(y + (CELL.height * BASE) / 100)];
	const at = (share: number): number => from + (width * share) / 100;
	if (gauge.line === 'broken') {
		context.fillStyle = ink.slate;
		for (let dash = 2; dash < width - 3; dash += 7) context.fillRect(from + dash, base, 3, 1);
		return;
	}
	context.fillStyle = gauge.mark === 'round' ? ink.hair : ink.rule;
	context.fillRect(from, base, width, 1);
	if (gauge.mark === 'round') return dot(context, at(gauge.place), base - 2.5, ink.whisper);
	for (const notch of NOTCHES) context.fillRect(at(notch), base - 4, 1, 9);
	context.fillStyle = must ? ink.oxblood : ink.sienna;
	if (gauge.bar) context.fillRect(at(gauge.bar[0]), base - 1, at(gauge.bar[1]) - at(gauge.bar[0]), 2.5);
	if (gauge.tick !== undefined) context.fillRect(at(gauge.tick) - 1.25, base - 8, 2.5, 12);
	if (gauge.mark !== 'none') MARKS[gauge.mark](context, boxOf(gauge.mark, at(gauge.place), base), ink);
}

type Box = { left: number; top: number; width: number; height: number };

/** The box of a mark whose middle stands at x, on a rule at `base`. */
function boxOf(mark: keyof typeof SHAPES, x: number, base: number): Box {
	const { wide, high, down } = SHAPES[mark];
	const [width, height] = [wide * MARK, high * MARK];
	return { left: x - width / 2, top: base + down * MARK - height / 2, width, height };
}

const MARKS: Record<keyof typeof SHAPES, (context: CanvasRenderingContext2D, box: Box, ink: Ink) => void> = {
	round: (context, { left, top, width, height }, ink) =>
		dot(context, left + width / 2, top + height / 2, ink.whisper),
	square: (context, { left, top, width, height }) => context.fillRect(left, top, width, height),
	hanging: (context, { left, top, width, height }) => {
		polygon(context, [left, top], [left + width, top], [left + width / 2, top + height]);
		context.fill();
	},
	diamond: (context, { left, top, width, height }, ink) => {
		// The drawn one is a square that is turned: its corners stand half a diagonal from its middle.
		const [x, y, reach] = [left + width / 2, top + height / 2, width * Math.SQRT1_2];
		polygon(context, [x, y - reach], [x + reach, y], [x, y + reach], [x - reach, y]);
		context.fillStyle = ink.paper;
		context.fill();
		context.strokeStyle = ink.plum;
		context.lineWidth = 1.5;
		context.stroke();
	}
};

function dot(context: CanvasRenderingContext2D, x: number, y: number, colour: string): void {
	context.fillStyle = colour;
	context.beginPath();
	context.arc(x, y, 2.2, 0, 2 * Math.PI);
	context.fill();
}

function polygon(context: CanvasRenderingContext2D, ...corners: [number, number][]): void {
	context.beginPath();
	corners.forEach(([x, y], place) => (place ? context.lineTo(x, y) : context.moveTo(x, y)));
	context.closePath();
}
