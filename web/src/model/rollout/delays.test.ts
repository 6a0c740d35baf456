import { expect, test } from 'vitest';
import { delays } from './delays';

const names = (now: Date, latest: Date) => delays(now, latest).map((delay) => delay.name);

test('what people say, in the order in which it comes', () => {
	const noon = new Date(2026, 2, 3, 12);
	expect(names(noon, new Date(2026, 2, 6, 12))).toEqual([
		'for an hour',
		'until this evening',
		'until tomorrow morning',
		'until tomorrow evening'
	]);
	expect(delays(noon, new Date(2026, 2, 6))[1]?.until).toBe(new Date(2026, 2, 3, 19).toISOString());
});

test('what has passed, or is too late, is not offered', () => {
	expect(names(new Date(2026, 2, 3, 20), new Date(2026, 2, 4, 9))).toEqual([
		'for an hour',
		'until tomorrow morning'
	]);
	expect(names(new Date(2026, 2, 3, 12), new Date(2026, 2, 3, 12, 30))).toEqual([]);
});
