/** Moments and days in words, in the facility's time zone. */
import { timeZone, zonedDate } from './zone';

const DAY = 86_400_000;
const WEEK = 7 * DAY;
const LONG = 300 * DAY; // from then on a day and a month may be those of two years

/**
 * The language that dates are written in: the page's English, in the way of the person's country. A language of
 * which no country is known has English of no country. Clocks have 24 hours everywhere: the server's own sentences
 * (`the wave begins at 20:00`), mails and calendars do, and one page has one clock.
 */
export function languageOfDates(persons: string | undefined): string {
	try {
		const { language, region } = new Intl.Locale(persons ?? '').maximize();
		return language === 'en' || region ? `en-${region ?? 'GB'}` : 'en-GB';
	} catch {
		return 'en-GB';
	}
}

export const language = languageOfDates(globalThis.navigator?.language);

const FORMATS = {
	clock: { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' },
	weekday: { weekday: 'short' },
	date: { day: 'numeric', month: 'short' },
	dateOfYear: { day: 'numeric', month: 'short', year: 'numeric' },
	dayOfYear: { day: 'numeric', month: 'short', weekday: 'short', year: 'numeric' },
	exact: { dateStyle: 'medium', timeStyle: 'medium', hourCycle: 'h23' }
} as const satisfies Record<string, Intl.DateTimeFormatOptions>;

// Making a formatter takes some 50 µs and using one 1 µs: each is made once for each time zone.
const formatters = new Map<string, Intl.DateTimeFormat>();

function format(name: keyof typeof FORMATS, at: Date | string): string {
	const zone = timeZone();
	const key = `${name} ${zone}`;
	const known = formatters.get(key);
	const formatter = known ?? new Intl.DateTimeFormat(language, { ...FORMATS[name], timeZone: zone });
	if (!known) formatters.set(key, formatter);
	return formatter.format(new Date(at));
}

/** The time of day of a moment: `20:00`. */
export const clockTime = (iso: string): string => format('clock', iso);

/** A day and a month: `21 Feb`, `Feb 21`. */
export const dayOfMonth = (at: Date): string => format('date', at);

/** A moment in the past or the future: `03:10` today, `Tue 03:10` within six days, else `21 Feb`, or `21 Feb 2025` far away. */
export function moment(iso: string | null | undefined, now = Date.now()): string {
	if (!iso) return '';
	const at = new Date(iso);
	const away = Math.abs(now - at.getTime());
	if (dayAhead(0, now) === dayAhead(0, at.getTime())) return format('clock', at);
	// A week away, the day of the week would be read as today's.
	const named = away < WEEK && format('weekday', at) !== format('weekday', new Date(now));
	if (named) return `${format('weekday', at)} ${format('clock', at)}`;
	return format(away < LONG ? 'date' : 'dateOfYear', at);
}

/** How long ago: `4 minutes ago`. */
export function ago(iso: string | null | undefined, now = Date.now()): string {
	if (!iso) return 'never';
	const seconds = Math.max(0, Math.round((now - new Date(iso).getTime()) / 1000));
	if (seconds < 60) return 'just now';
	const [count, unit] =
		seconds < 3600
			? [seconds / 60, 'minute']
			: seconds < 86_400
				? [seconds / 3600, 'hour']
				: [seconds / 86_400, 'day'];
	const whole = Math.floor(count);
	return `${whole} ${unit}${whole === 1 ? '' : 's'} ago`;
}

/** The date so many days from now, as a date field has it: `2026-03-16`. Some days have 23 or 25 hours. */
export function dayAhead(days: number, now = Date.now()): string {
	const at = zonedDate(now);
	at.setDate(at.getDate() + days);
	return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
}

/** A day to come: `today`, `tomorrow`, `Mon 16 Mar 2026`. */
export function day(iso: string, now = Date.now()): string {
	const apart = ['today', 'tomorrow'].find(
		(_, days) => dayAhead(days, now) === dayAhead(0, new Date(iso).getTime())
	);
	return apart ?? format('dayOfYear', iso);
}

/** A moment with its seconds, for the ledger. */
export const exactly = (iso: string): string => format('exact', iso);
