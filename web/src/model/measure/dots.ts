/** Geometry of a trial's runs and intervals: where a figure stands, and on which row. No sums of the trial itself. */
import type { Schemas } from '../../api/client';

export type Run = Schemas['RunOut'];
export type Dot = { run: Run; x: number; y: number };
export type Row = { name: string; dots: Dot[]; mean: number | null };
export type Scale = { low: number; high: number };

/** Air at both ends of a scale, of its length. */
const AIR = 0.06;
const LEAST_SPREAD = 1e-6; // of figures: those that are closer are drawn as the same

/** The scale that holds all of these figures; a single figure stands in its middle. */
export function scaleOf(figures: readonly number[]): Scale {
	const low = Math.min(...figures);
	const high = Math.max(...figures);
	const size = Math.abs(high) || 1;
	const spread = high - low;
	const air = (spread > size * LEAST_SPREAD ? spread : size) * AIR;
	return { low: low - air, high: high + air };
}

/** A share of the scale's length, from 0 to 1. */
export function shareOf(value: number, { low, high }: Scale): number {
	return (value - low) / (high - low);
}

/** One row a condition, in their order; a dot's height in its row is when it was run, the first on top. */
export function rowsOf(
	names: readonly string[],
	runs: readonly Run[],
	scale: Scale,
	means: Record<string, number> = {}
): Row[] {
	const made = runs.filter((run) => run.figure !== null);
	const last = Math.max(1, made.length - 1);
	return names.map((name) => {
		const own = made.flatMap((run, order) => (run.condition === name ? [{ run, y: order / last }] : []));
		const mean = means[name];
		return {
			name,
			mean: mean === undefined ? null : shareOf(mean, scale),
			dots: own.map(({ run, y }) => ({ run, y, x: shareOf(run.figure as number, scale) }))
		};
	});
}

/** Round marks along a scale, at most so many. */
export function ticksOf({ low, high }: Scale, most = 6): number[] {
	const raw = (high - low) / most;
	const power = 10 ** Math.floor(Math.log10(raw));
	const step = ([1, 2, 5, 10].find((times) => times * power >= raw) ?? 10) * power;
	const first = Math.ceil(low / step);
	const count = Math.max(0, Math.floor(high / step) - first + 1);
	return Array.from({ length: count }, (_, number) => Number(((first + number) * step).toPrecision(6)));
}

/** The widest ratio that is drawn: beyond it a bar runs out of the picture. */
const WIDEST = 8;

/** Where ratios stand: on logarithms, 1 in the middle, as wide as the farthest of them (1.25 at least). */
export function ratioScale(
	ratios: readonly { low: number | null; high: number | null; ratio: number | null }[]
): Scale {
	const farthest = ratios.flatMap(({ low, high, ratio }) =>
		[low, high, ratio].flatMap((value) => (value && value > 0 ? [Math.abs(Math.log(value))] : []))
	);
	const reach = Math.min(Math.log(WIDEST), Math.max(Math.log(1.25), ...farthest) * (1 + AIR));
	return { low: -reach, high: reach };
}

/** A ratio's share of such a scale, kept within it. */
export function ratioShare(ratio: number | null, scale: Scale): number {
	if (ratio === null) return 1;
	if (ratio <= 0) return 0;
	return Math.min(1, Math.max(0, shareOf(Math.log(ratio), scale)));
}
