/** What holds of dates at every moment, in every time zone: also when the clock changes and when a year ends. */
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { momentAt, placeOf } from '../house/strip';
import { delays } from '../rollout/delays';
import { ago, dayAhead, moment } from './moment';
import { fieldOfMoment, momentOfField, setTimeZone } from './zone';

const HOUR = 3_600_000;
const MOMENTS = fc.integer({ min: Date.UTC(2024, 0), max: Date.UTC(2030, 0) });
/** Around the changes of the clock in Europe, in America and on Lord Howe, the ends of years, and a leap day. */
const EDGES = fc
	.tuple(
		fc.constantFrom(
			Date.UTC(2026, 2, 29, 1),
			Date.UTC(2026, 9, 25, 1),
			Date.UTC(2026, 2, 8, 7),
			Date.UTC(2026, 3, 4, 15),
			Date.UTC(2026, 11, 31, 23, 59),
			Date.UTC(2028, 1, 29, 12)
		),
		fc.integer({ min: -36 * HOUR, max: 36 * HOUR })
	)
	.map(([at, off]) => at + off);
const NOW = fc.oneof(MOMENTS, EDGES);

afterEach(() => {
	setTimeZone(undefined);
});

describe.each(['UTC', 'Europe/Berlin', 'America/St_Johns', 'Australia/Lord_Howe', 'Pacific/Apia'])(
	'in %s',
	(zone) => {
		beforeEach(() => {
			setTimeZone(zone);
		});

		test('a date so many days ahead is that date of the calendar', () => {
			fc.assert(
				fc.property(NOW, fc.integer({ min: -400, max: 400 }), (now, days) => {
					const [year, month, day] = dayAhead(0, now).split('-').map(Number) as [number, number, number];
					const wanted = new Date(Date.UTC(year, month - 1, day + days)).toISOString().slice(0, 10);
					expect(dayAhead(days, now)).toBe(wanted);
				})
			);
		});

		test('a field shows a moment and reads it back to the minute, except in a repeated hour', () => {
			fc.assert(
				fc.property(NOW, (now) => {
					const minute = new Date(Math.floor(now / 60_000) * 60_000).toISOString();
					const shown = fieldOfMoment(minute);
					const read = momentOfField(shown);
					expect(fieldOfMoment(read)).toBe(shown);
					expect(Math.abs(Date.parse(read ?? '') - Date.parse(minute))).toBeLessThanOrEqual(HOUR);
				})
			);
		});

		test('a delay that is offered is at least half an hour ahead and not too late', () => {
			fc.assert(
				fc.property(NOW, fc.integer({ min: 0, max: 72 }), (now, hours) => {
					const latest = new Date(now + hours * HOUR);
					for (const { until } of delays(new Date(now), latest)) {
						expect(Date.parse(until)).toBeGreaterThanOrEqual(now + HOUR / 2);
						expect(Date.parse(until)).toBeLessThanOrEqual(latest.getTime());
					}
				})
			);
		});
	}
);

test('a moment is said by its clock alone on its own day, and never on another', () => {
	fc.assert(
		fc.property(NOW, fc.integer({ min: -800 * 24, max: 800 * 24 }), (now, hours) => {
			const at = new Date(now + hours * HOUR);
			const today = dayAhead(0, now) === dayAhead(0, at.getTime());
			expect(/^\d\d:\d\d$/.test(moment(at.toISOString(), now))).toBe(today);
		})
	);
});

test('a moment more than a week away, past or to come, is said with its month', () => {
	fc.assert(
		fc.property(NOW, fc.integer({ min: 8 * 24, max: 2000 * 24 }), fc.boolean(), (now, hours, past) => {
			const at = new Date(now + (past ? -hours : hours) * HOUR).toISOString();
			expect(moment(at, now)).toMatch(/[A-Z][a-z]{2}/);
			expect(moment(at, now)).not.toContain(':');
		})
	);
});

test('how long ago never grows smaller', () => {
	const units = ['just', 'minute', 'hour', 'day'];
	const size = (words: string): number => {
		const unit = units.findIndex((name) => words.includes(name));
		return unit * 1e6 + (Number.parseInt(words, 10) || 0);
	};
	fc.assert(
		fc.property(NOW, fc.nat(1e10), fc.nat(1e10), (now, one, other) => {
			const [less, more] = one < other ? [one, other] : [other, one];
			const words = [less, more].map((time) => ago(new Date(now - time).toISOString(), now));
			expect(size(words[0] ?? '')).toBeLessThanOrEqual(size(words[1] ?? ''));
		})
	);
});

test('the place of a moment on the strip and the moment of a place are each other’s inverse', () => {
	fc.assert(
		fc.property(
			NOW,
			fc.integer({ min: 1, max: 90 }),
			fc.double({ min: 0, max: 1, noNaN: true }),
			(now, days, x) => {
				const at = momentAt(x, now, days).toISOString();
				expect(placeOf(at, now, days)).toBeCloseTo(x, 6);
			}
		)
	);
});
