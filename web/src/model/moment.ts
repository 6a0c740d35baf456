const DAY = 86_400_000;
const WEEK = 7 * DAY;
const LONG = 300 * DAY; // from then on a day and a month may be those of two years

const clock = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });
const weekday = new Intl.DateTimeFormat('en-GB', { weekday: 'short' });
const date = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' });
const dateOfYear = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });

/** A moment as one says it: `03:10` today, `Tue 03:10` this week, `21 Feb` before, `21 Feb 2025` long ago. */
export function moment(iso: string | null | undefined, now = Date.now()): string {
	if (!iso) return '';
	const at = new Date(iso);
	const ago = now - at.getTime();
	if (ago < DAY && new Date(now).getDate() === at.getDate()) return clock.format(at);
	if (ago < WEEK) return `${weekday.format(at)} ${clock.format(at)}`;
	return (ago < LONG ? date : dateOfYear).format(at);
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

/** The date so many days from now, as a date field has it: `2026-03-16`. */
export function dayAhead(days: number, now = Date.now()): string {
	const at = new Date(now + days * DAY);
	return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
}

const far = new Intl.DateTimeFormat('en-GB', {
	weekday: 'short',
	day: 'numeric',
	month: 'short',
	year: 'numeric'
});

/** A day to come: `today`, `tomorrow`, `Mon 16 Mar 2026`. */
export function day(iso: string, now = Date.now()): string {
	const apart = ['today', 'tomorrow'].find(
		(_, days) => dayAhead(days, now) === dayAhead(0, new Date(iso).getTime())
	);
	return apart ?? far.format(new Date(iso));
}

/** Seconds and all, for the ledger. */
export function exactly(iso: string): string {
	return new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'medium' });
}
