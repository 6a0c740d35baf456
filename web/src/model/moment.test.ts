import { expect, it } from 'vitest';
import { ago, moment } from './moment';

const NOW = new Date(2026, 2, 5, 12, 0).getTime();
const at = (...parts: [number, number, number, number, number]) => new Date(...parts).toISOString();

it('says a moment as people do', () => {
	expect(moment(at(2026, 2, 5, 3, 10), NOW)).toBe('03:10');
	expect(moment(at(2026, 2, 3, 3, 10), NOW)).toBe('Tue 03:10');
	expect(moment(at(2026, 1, 21, 3, 10), NOW)).toBe('21 Feb');
	expect(moment(at(2025, 1, 21, 3, 10), NOW)).toBe('21 Feb 2025');
	expect(moment(null)).toBe('');
});

it('says how long ago', () => {
	expect(ago(at(2026, 2, 5, 11, 59), NOW)).toBe('1 minute ago');
	expect(ago(at(2026, 2, 5, 9, 30), NOW)).toBe('2 hours ago');
	expect(ago(undefined)).toBe('never');
});
