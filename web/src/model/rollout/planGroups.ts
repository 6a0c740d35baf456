import type { Schemas } from '../../api/client';

type SeatPlan = Schemas['SeatPlanOut'];

/** The same change on several seats. */
export type SameChange = {
	key: string;
	title: string;
	app: string | null;
	before: string;
	after: string;
	rounder: string;
	seats: string[];
};

/** Seats of a plan that are all shown one by one; of more, those with something to decide. */
export const FEW = 12;

/** Equal changes of a plan with the seats that they are made on, those on most seats first. */
export function sameChanges(plan: readonly SeatPlan[]): SameChange[] {
	const groups = new Map<string, SameChange>();
	for (const { seat, changes } of plan) {
		for (const {
			setting,
			title,
			app,
			shown_before: before,
			shown_after: after,
			shown_rounder: rounder
		} of changes) {
			const key = JSON.stringify([setting, app, before, after]);
			const group = groups.get(key) ?? { key, title, app, before, after, rounder, seats: [] };
			groups.set(key, { ...group, seats: [...group.seats, seat] });
		}
	}
	return [...groups.values()].sort((first, next) => next.seats.length - first.seats.length);
}

/** `pan-03, pan-04`; of many the first and how many more. */
export function seatsInShort(seats: readonly string[], most = 4): string {
	const named = seats.slice(0, most).join(', ');
	return seats.length > most ? `${named} and ${seats.length - most} more` : named;
}
