/** The grid of drift as it is sent and laid out. What a cell means was decided by the server. */
import type { Schemas } from '../../api/client';

export type GridRow = Schemas['GridRowOut'];
export type GridSeat = Schemas['GridSeatOut'];

export const STATUSES = ['no-norm', 'in-norm', 'unread', 'waived', 'off-norm'] as const;
const STATUS_BITS = 7;
const MUST_BIT = 8;
const FAR_SHIFT = 4;
const FAR_MIDDLE = 8;
export const NO_CAUSE = 0xffff;

export type Cell = { status: (typeof STATUSES)[number]; must: boolean; distance: number | null };

export function cellOf(byte: number): Cell {
	const far = byte >> FAR_SHIFT;
	return {
		status: STATUSES[byte & STATUS_BITS] ?? 'no-norm',
		must: (byte & MUST_BIT) !== 0,
		distance: far ? far - FAR_MIDDLE : null
	};
}

export const isOff = (byte: number | undefined): boolean =>
	byte !== undefined && STATUSES[byte & STATUS_BITS] === 'off-norm';

export function bytesOf(base64: string): Uint8Array {
	const text = atob(base64);
	const bytes = new Uint8Array(text.length);
	for (let place = 0; place < text.length; place++) bytes[place] = text.charCodeAt(place);
	return bytes;
}

/** The cause of each cell, `NO_CAUSE` where it is not off norm: as the server lists them, off-norm cells in order. */
export function causesOf(cells: Uint8Array, packed: Uint8Array): Uint16Array {
	const found = new Uint16Array(cells.length).fill(NO_CAUSE);
	let next = 0;
	for (let place = 0; place < cells.length; place++) {
		if (!isOff(cells[place])) continue;
		found[place] = (packed[next] ?? 0) | ((packed[next + 1] ?? 0) << 8);
		next += 2;
	}
	return found;
}

/** The seats that have anything off norm, by their number; cells stand row by row. */
export function seatsOff(cells: Uint8Array, seats: number): Set<number> {
	const off = new Set<number>();
	for (let place = 0; place < cells.length; place++) if (isOff(cells[place])) off.add(place % seats);
	return off;
}

/** By what seats may stand together. */
export const GROUPINGS = ['room', 'hardware_class', 'production', 'role'] as const;
export type Grouping = (typeof GROUPINGS)[number];

export type Group = { name: string; from: number; count: number };
export type Columns = { seats: number[]; groups: Group[] };

/** Seats side by side in groups, in the order in which a group is first met; seats of a group keep their order. */
export function columnsOf(
	seats: readonly GridSeat[],
	by: Grouping,
	shown: (seat: number) => boolean = () => true
): Columns {
	const groups = new Map<string, number[]>();
	seats.forEach((seat, number) => {
		if (!shown(number)) return;
		const name = seat[by] || 'none';
		const of = groups.get(name);
		if (of) of.push(number);
		else groups.set(name, [number]);
	});
	let from = 0;
	const named = [...groups].map(([name, of]) => {
		const group = { name, from, count: of.length };
		from += of.length;
		return group;
	});
	return { seats: [...groups.values()].flat(), groups: named };
}

/** A line of the grid: a family's heading, or a setting; of a cause the cells of that cause alone. */
export type Line =
	| { kind: 'family'; key: string; title: string }
	| { kind: 'row'; key: string; title: string; told: string; row: number; cause: number | null };

export function linesOf(
	rows: readonly GridRow[],
	nameOf: (app: string) => string,
	onlyOff = false,
	setting = ''
): Line[] {
	const lines: Line[] = [];
	let family = '';
	rows.forEach((row, number) => {
		if ((onlyOff && !row.off) || (setting && row.setting !== setting)) return;
		if (row.family !== family) {
			family = row.family;
			lines.push({ kind: 'family', key: family, title: row.family_title });
		}
		const title = row.app ? `${row.title}, ${nameOf(row.app)}` : row.title;
		const told = row.off ? String(row.off) : '';
		lines.push({
			kind: 'row',
			key: `${row.setting} ${row.app ?? ''}`,
			title,
			told,
			row: number,
			cause: null
		});
	});
	return lines;
}

export function causeLinesOf(causes: readonly Schemas['CauseOut'][]): Line[] {
	return causes.map((cause, number) => ({
		kind: 'row',
		key: `cause ${number}`,
		title: cause.title,
		told: String(cause.seats),
		row: cause.row,
		cause: number
	}));
}

/** What every name begins with, up to a hyphen: `pan-` of `pan-01` and `pan-02`; nothing where they differ. */
export function sharedOf(names: readonly string[]): string {
	const first = (names[0] ?? '').replace(/[^-]*$/, '');
	return names.every((name) => name.startsWith(first)) ? first : '';
}

const WIDEST = 6; // signs of the small face that fit over a cell

/** A name in two short lines: `sluice` over `03`. Of a long part the end is kept. */
export function stacked(name: string): [string, string] {
	const cut = name.lastIndexOf('-');
	const [head, tail] = cut > 0 ? [name.slice(0, cut), name.slice(cut + 1)] : ['', name];
	return [head.slice(-WIDEST), tail.slice(-WIDEST + 1)];
}
