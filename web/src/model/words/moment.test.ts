import { expect, it } from 'vitest';
import { ago, languageOfDates, moment } from './moment';

const NOW = new Date(2026, 2, 5, 12, 0).getTime();
const at = (...parts: [number, number, number, number, number]) => new Date(...parts).toISOString();

it('says a moment as people do', () => {
	expect(moment(at(2026, 2, 5, 3, 10), NOW)).toBe('03:10');
	expect(moment(at(2026, 2, 3, 3, 10), NOW)).toBe('Tue 03:10');
	expect(moment(at(2026, 2, 12, 3, 10), NOW)).toBe('12 Mar');
	expect(moment(at(2026, 1, 21, 3, 10), NOW)).toBe('21 Feb');
	expect(moment(at(2025, 1, 21, 3, 10), NOW)).toBe('21 Feb 2025');
	expect(moment(null)).toBe('');
});

it('says how long ago', () => {
	expect(ago(at(2026, 2, 5, 11, 59), NOW)).toBe('1 minute ago');
	expect(ago(at(2026, 2, 5, 9, 30), NOW)).toBe('2 hours ago');
	expect(ago(undefined)).toBe('never');
});

it('writes dates as the person does, in the words of the page', () => {
	expect(['en-US', 'de', 'de-AT', 'en-ZA', 'ja'].map((name) => languageOfDates(name))).toEqual([
		'en-US',
		'en-DE',
		'en-AT',
		'en-ZA',
		'en-JP'
	]);
	expect(['', undefined, 'no such language', 'tlh'].map((name) => languageOfDates(name))).toEqual(
		Array(4).fill('en-GB')
	);
	const day = { day: 'numeric', month: 'short' } as const;
	const written = (name: string) => new Date(2026, 1, 21).toLocaleDateString(languageOfDates(name), day);
	expect(written('en-US')).toBe('Feb 21');
	expect(written('de-DE')).toBe('21 Feb');
});
