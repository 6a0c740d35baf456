/** Geometry of the level, for the one that is drawn and the one that is painted. No norm is decided here. */
export type Mark = 'round' | 'square' | 'hanging' | 'diamond' | 'none';

/** How a level looks; every place is a share of its width in per cent. */
export type Gauge = {
	line: 'notched' | 'broken' | 'faint';
	mark: Mark;
	/** The middle of the mark. */
	place: number;
	/** From the norm's edge to the mark, the left end first; only of a square. */
	bar: [number, number] | undefined;
	/** Behind a mark that stands further away than a level can show. */
	tick: number | undefined;
};

const MIDDLE = 50;
const NORM_HALF = 9; // half the width of the norm's band
const REACH = 38; // how far from the middle a mark may stand
const CLEAR = 3; // a mark stands outside of the norm's band as soon as it is off norm
const BEHIND = 7;
const OCTAVES = 6; // distances beyond are capped with a tick

/** The norm's band, between two notches. */
export const NOTCHES = [MIDDLE - NORM_HALF, MIDDLE + NORM_HALF] as const;
/** Where the rule lies, in per cent of the height. */
export const BASE = 58.3;

/** A mark's width and height, and how far its middle lies below the rule, each times the size of marks. */
export const SHAPES: Record<Exclude<Mark, 'none'>, { wide: number; high: number; down: number }> = {
	round: { wide: 0.625, high: 0.625, down: -0.19 }, // it stands on the rule
	square: { wide: 0.625, high: 0.625, down: -0.19 },
	hanging: { wide: 0.8, high: 0.5, down: 0.3 },
	diamond: { wide: 0.56, high: 0.56, down: -0.06 }
};

export function gaugeOf(status: string, distance: number | null): Gauge {
	const mark = markOf(status, distance);
	const line = mark !== 'none' ? 'notched' : status === 'unread' ? 'broken' : 'faint';
	if (mark !== 'square' || !distance) return { line, mark, place: MIDDLE, bar: undefined, tick: undefined };
	const side = Math.sign(distance);
	const share = Math.min(Math.abs(distance), OCTAVES) / OCTAVES;
	const nearest = NORM_HALF + CLEAR;
	const place = MIDDLE + side * (nearest + share * (REACH - nearest));
	const edge = MIDDLE + side * NORM_HALF;
	const tick = Math.abs(distance) > OCTAVES ? place + side * BEHIND : undefined;
	return { line, mark, place, bar: [Math.min(place, edge), Math.max(place, edge)], tick };
}

function markOf(status: string, distance: number | null): Mark {
	if (status === 'in-norm') return 'round';
	if (status === 'waived') return 'diamond';
	if (status === 'off-norm') return distance ? 'square' : 'hanging';
	return 'none';
}
