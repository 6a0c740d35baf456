/** The coming night in the facility's time zone, when most seats are free. */
import { isoOf, zonedDate } from '../words/zone';

const START_HOUR = 20;
const END_HOUR = 6;
/** With less than this left of a night, not every seat would get its turn: the next night is taken. */
const MIN_HOURS_LEFT = 2;

export function tonight(now: Date): { begins: string; ends: string } {
	const start = zonedDate(now);
	const stillNight = start.getHours() < END_HOUR - MIN_HOURS_LEFT;
	if (stillNight) start.setDate(start.getDate() - 1);
	start.setHours(START_HOUR, 0, 0, 0);
	const end = zonedDate(start);
	end.setDate(end.getDate() + 1);
	end.setHours(END_HOUR, 0, 0, 0);
	return { begins: isoOf(start < now ? now : start), ends: isoOf(end) };
}
