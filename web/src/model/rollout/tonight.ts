/** The hours of the coming night, in this browser's zone: when most seats are free. */
const BEGINS = 20;
const ENDS = 6;
/** Of a night with less than this left the seats of a house would not all have their turns: the next one is taken. */
const LEAST_HOURS = 2;
const HOUR_MS = 3_600_000;

export function tonight(now: Date): { begins: string; ends: string } {
	const begins = new Date(now);
	begins.setHours(BEGINS, 0, 0, 0);
	const goesOn = now.getHours() < ENDS - LEAST_HOURS;
	if (goesOn) begins.setTime(begins.getTime() - 24 * HOUR_MS);
	const ends = new Date(begins);
	ends.setDate(ends.getDate() + 1);
	ends.setHours(ENDS, 0, 0, 0);
	return {
		begins: new Date(Math.max(begins.getTime(), now.getTime())).toISOString(),
		ends: ends.toISOString()
	};
}
