/** Geometry of measured rates beside the rate that is needed, and of a ruler of memory. */

export type RateScale = { needed: number; share: number };

/** How far along a bar the needed rate is drawn; the rest is for faster rates, up to `MAX_TIMES` of what is needed. */
const NEEDED_SHARE = 0.4;
const MAX_TIMES = 40;

/** The scale on which the needed rate lies at two fifths of the length. */
export const rateScale = (needed: number): RateScale => ({ needed, share: NEEDED_SHARE });

/**
 * The length of a rate's bar as a share of 1: proportional up to the needed rate, logarithmic beyond it, for decoders
 * differ by factors of 40 and what is too slow has to be told apart exactly.
 */
export function rateShare(rate: number, { needed, share }: RateScale): number {
	const times = needed > 0 ? rate / needed : 0;
	if (!(times > 0)) return 0;
	if (times <= 1) return share * times;
	return Math.min(1, share + ((1 - share) * Math.log(times)) / Math.log(MAX_TIMES));
}

const GIB = 2 ** 30;
const MAX_TICKS = 9;

/** The marks of a ruler from 0 to `total` bytes: multiples of a power of two GiB, at most 9 of them. */
export function memoryTicks(total: number): number[] {
	let step = GIB;
	while (total / step > MAX_TICKS) step *= 2;
	return Array.from({ length: Math.floor(total / step) + 1 }, (_, number) => number * step).filter(
		(size) => size < total
	);
}
