import { afterEach, expect, test } from 'vitest';
import { tonight } from '../rollout/tonight';
import { clockTime, day, moment } from './moment';
import { endOfDay, fieldOfMoment, momentOfField, setTimeZone, timeZone, zonedDate } from './zone';

const BROWSER_ZONE = new Intl.DateTimeFormat().resolvedOptions().timeZone;

afterEach(() => setTimeZone(undefined));

test('shows times in the time zone of the facility', () => {
	const noon = '2026-07-01T12:00:00Z';
	setTimeZone('Pacific/Auckland');
	expect(timeZone()).toBe('Pacific/Auckland');
	expect(clockTime(noon)).toBe('00:00');
	expect(moment(noon, Date.parse('2026-07-04T00:00:00Z'))).toBe('Thu 00:00');
	expect(day(noon, Date.parse('2026-07-01T13:00:00Z'))).toBe('today');
	expect(zonedDate(noon).getDate()).toBe(2);
	setTimeZone('America/New_York');
	expect(clockTime(noon)).toBe('08:00');
	expect(tonight(new Date(noon)).begins).toBe('2026-07-02T00:00:00.000Z');
});

test('reads and fills fields in the time zone of the facility', () => {
	setTimeZone('Europe/Dublin');
	expect(momentOfField('2026-03-02T18:30')).toBe('2026-03-02T18:30:00.000Z');
	expect(momentOfField('2026-07-02T18:30')).toBe('2026-07-02T17:30:00.000Z');
	expect(fieldOfMoment('2026-07-02T17:30:00Z')).toBe('2026-07-02T18:30');
	expect(endOfDay('2026-07-02')).toBe('2026-07-02T22:59:00.000Z');
	expect([momentOfField(''), fieldOfMoment(null)]).toEqual([null, '']);
});

test('an hour that the clock skips is read as the hour after it', () => {
	setTimeZone('Europe/Dublin');
	expect(fieldOfMoment(momentOfField('2026-03-29T01:30'))).toBe('2026-03-29T02:30');
});

test('uses the zone of the browser for a zone that the browser does not know', () => {
	setTimeZone('Mars/Olympus_Mons');
	expect(timeZone()).toBe(BROWSER_ZONE);
});
