/** Until when an editor may postpone a rollout, in words, without those that are too late. */
import { isoOf, zonedDate } from '../words/zone';

export type Delay = { name: string; until: string };

const HOUR = 3_600_000;
const EVENING = 19;
const MORNING = 8;

export function delays(now: Date, latest: Date): Delay[] {
	const at = (days: number, hour: number): Date => {
		const moment = zonedDate(now);
		moment.setDate(moment.getDate() + days);
		moment.setHours(hour, 0, 0, 0);
		return moment;
	};
	const offered: [string, Date][] = [
		['for an hour', new Date(now.getTime() + HOUR)],
		['until this evening', at(0, EVENING)],
		['until tomorrow morning', at(1, MORNING)],
		['until tomorrow evening', at(1, EVENING)]
	];
	return offered
		.filter(([, until]) => until.getTime() >= now.getTime() + HOUR / 2 && until <= latest)
		.map(([name, until]) => ({ name, until: isoOf(until) }));
}
