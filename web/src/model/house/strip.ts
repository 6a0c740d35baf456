/** The geometry of the strip of days: where a moment stands, and which moment a place is. */
import type { Schemas } from '../../api/client';
import { nameOf } from '../words/names';
import { dayOfMonth } from '../words/moment';
import { isoOf, zonedDate } from '../words/zone';

const DAY = 86_400_000;

type Change = Pick<Schemas['MovedOut'], 'at' | 'family' | 'cause' | 'app' | 'title' | 'before' | 'after'>;
/** Changes that stand at one place of the strip; `x` is the share of its width, 0 to 1. */
export type Placed = { x: number; at: string; family: string; cause: string; words: string };

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
	const day = zonedDate(now);
	day.setHours(0, 0, 0, 0);
	for (let back = 0; back < days; back += 1) {
		const at = zonedDate(day);
		at.setDate(day.getDate() - back);
		const name = at.getDay() === 1 ? dayOfMonth(at) : '';
		found.push({ x: placeOf(isoOf(at), now, days), name });
	}
	return found;
}

/** What a change came from, in words. */
export const CAUSES: Record<string, string> = {
	'at the seat': 'at the seat',
	ours: 'ours',
	version: 'with a version',
	facts: 'the machine',
	unread: 'no longer reported'
};

/** Changes with their places, those of one moment, family and cause together, the oldest first. */
export function placed(changes: readonly Change[], now: number, days: number): Placed[] {
	const groups = new Map<string, Placed>();
	for (const change of changes) {
		const { at, family, cause } = change;
		const key = `${at} ${family} ${cause}`;
		const group = groups.get(key);
		if (group) group.words += `; ${wordsOf(change)}`;
		else groups.set(key, { x: placeOf(at, now, days), at, family, cause, words: wordsOf(change) });
	}
	return [...groups.values()].reverse();
}

function wordsOf({ app, title, before, after }: Change): string {
	return `${app ? `${nameOf(app)} ${title.slice(0, 1).toLowerCase()}${title.slice(1)}` : title}: ${before ?? 'unknown'} to ${after ?? 'unknown'}`;
}

/** Families with a lane of their own; all others share the one below. */
export const LANES = ['engine', 'memory', 'stores', 'power', 'driver'];

/** The lane of a family, the uppermost first. */
export function laneOf(family: string): number {
	const lane = LANES.indexOf(family);
	return lane < 0 ? LANES.length : lane;
}
