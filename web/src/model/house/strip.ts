/** The geometry of the strip of days: where a moment stands, and which moment a place is. */
import { dayOfMonth } from '../words/moment';

const DAY = 86_400_000;

export type Mark = { at: string; family: string; cause: string };
export type Placed<T> = T & { x: number };

/** The share of the way, 0 to 1, at which a moment stands on a strip of `days` that ends `now`. */
export function placeOf(at: string, now: number, days: number): number {
	return Math.min(1, Math.max(0, 1 - (now - new Date(at).getTime()) / (days * DAY)));
}

/** The moment at a share of the way. */
export function momentAt(share: number, now: number, days: number): Date {
	return new Date(now - (1 - share) * days * DAY);
}

/** Midnights on the strip, each with its place: the first day of each week is named. */
export function midnights(now: number, days: number): { x: number; name: string }[] {
	const found: { x: number; name: string }[] = [];
	const day = new Date(now);
	day.setHours(0, 0, 0, 0);
	for (let back = 0; back < days; back += 1) {
		const at = new Date(day);
		at.setDate(day.getDate() - back);
		const name = at.getDay() === 1 ? dayOfMonth(at) : '';
		found.push({ x: placeOf(at.toISOString(), now, days), name });
	}
	return found;
}

/** Changes with their places, those of one moment and family together, the oldest first. */
export function placed<T extends Mark>(
	marks: T[],
	now: number,
	days: number
): { x: number; at: string; family: string; cause: string; marks: T[] }[] {
	const groups = new Map<string, T[]>();
	for (const mark of marks) {
		const key = `${mark.at} ${mark.family} ${mark.cause}`;
		groups.set(key, [...(groups.get(key) ?? []), mark]);
	}
	return [...groups.values()].reverse().flatMap((group) => {
		const first = group[0];
		return first
			? [
					{
						x: placeOf(first.at, now, days),
						at: first.at,
						family: first.family,
						cause: first.cause,
						marks: group
					}
				]
			: [];
	});
}
