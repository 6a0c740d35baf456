/** The facility's time zone: the page shows and reads times in it, as the server's sentences and mails do. */
import { TZDate } from '@date-fns/tz';

let facilityZone: string | undefined;

/**
 * Use this time zone on the page from now on; without a name, the browser's. A browser that does not know the zone
 * keeps its own, and names it.
 */
export function setTimeZone(name: string | undefined): void {
	facilityZone = name && isKnown(name) ? name : undefined;
}

function isKnown(name: string): boolean {
	try {
		return Boolean(new Intl.DateTimeFormat('en', { timeZone: name }));
	} catch {
		return false;
	}
}

/** The name of the time zone in use: `Europe/Dublin`. */
export function timeZone(): string {
	return facilityZone ?? new Intl.DateTimeFormat().resolvedOptions().timeZone;
}

/** A date whose hours, days and months, read or set, are those of the time zone in use. */
export function zonedDate(at: Date | number | string): Date {
	return new TZDate(new Date(at).getTime(), timeZone());
}

/** A moment as the API takes it, in UTC. */
export const isoOf = (at: Date): string => new Date(at.getTime()).toISOString();

/** The value of a date and time field, in the time zone in use, as a moment; null when the field is empty. */
export function momentOfField(value: string): string | null {
	return value ? momentOfClock(value) : null;
}

function momentOfClock(value: string): string {
	const clock = new Date(`${value}Z`);
	const [year, month, day] = [clock.getUTCFullYear(), clock.getUTCMonth(), clock.getUTCDate()];
	return isoOf(new TZDate(year, month, day, clock.getUTCHours(), clock.getUTCMinutes(), timeZone()));
}

/** The value of a date and time field that shows this moment: `2026-03-16T20:00`. */
export function fieldOfMoment(moment: string | null | undefined): string {
	if (!moment) return '';
	const at = zonedDate(moment);
	return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

/** The last minute of a day given by a date field. */
export const endOfDay = (day: string): string => momentOfClock(`${day}T23:59`);
