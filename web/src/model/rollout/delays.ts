/** To which moments somebody at a seat puts a turn off, as people say them; what is too late is not offered. */
export type Delay = { name: string; until: string };

const HOUR = 3_600_000;
const EVENING = 19;
const MORNING = 8;

export function delays(now: Date, latest: Date): Delay[] {
	const at = (days: number, hour: number): Date =>
		new Date(now.getFullYear(), now.getMonth(), now.getDate() + days, hour);
	const offered: [string, Date][] = [
		['for an hour', new Date(now.getTime() + HOUR)],
		['until this evening', at(0, EVENING)],
		['until tomorrow morning', at(1, MORNING)],
		['until tomorrow evening', at(1, EVENING)]
	];
	return offered
		.filter(([, until]) => until.getTime() >= now.getTime() + HOUR / 2 && until <= latest)
		.map(([name, until]) => ({ name, until: until.toISOString() }));
}
