/** Geometry of the level: where its mark stands. Nothing about norms is decided here. */
export type Mark = 'round' | 'square' | 'hanging' | 'diamond' | 'none';

const MIDDLE = 50;
const NORM_HALF = 9; // half the width of the norm's band
const REACH = 38; // how far from the middle a mark may stand
const BEHIND = 7;
const OCTAVES = 6; // distances beyond are capped with a tick

export function markOf(status: string, distance: number | null): Mark {
	if (status === 'in-norm') return 'round';
	if (status === 'waived') return 'diamond';
	if (status === 'off-norm') return distance ? 'square' : 'hanging';
	return 'none';
}

export function isCapped(distance: number | null): boolean {
	return Math.abs(distance ?? 0) > OCTAVES;
}

/** Sideways place of the mark: outside of the norm's band as soon as it is off norm, more to the right. */
export function placeOf(distance: number | null): number {
	if (!distance) return MIDDLE;
	const share = Math.min(Math.abs(distance), OCTAVES) / OCTAVES;
	return MIDDLE + Math.sign(distance) * (NORM_HALF + 3 + share * (REACH - NORM_HALF - 3));
}

/** Where the bar from the norm's edge to the mark begins. */
export function edgeOf(distance: number | null): number {
	return MIDDLE + Math.sign(distance ?? 0) * NORM_HALF;
}

/** Where the tick of a capped mark stands: just behind it. */
export function tickOf(distance: number | null): number {
	return placeOf(distance) + Math.sign(distance ?? 0) * BEHIND;
}
