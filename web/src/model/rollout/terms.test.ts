import { describe, expect, it, test } from 'vitest';
import { limitOf, nameOfWave, startOf, startWords, USUAL } from './terms';

test('no number is no limit', () => {
	expect(['', '0', '-3', 'x', '12'].map(limitOf)).toEqual([0, 0, 0, 0, 12]);
});

test('the first wave has a name', () => {
	expect([0, 1].map(nameOfWave)).toEqual(['Canaries', 'Wave 1']);
});

it('a rollout says when it starts, with the zone', () => {
	const now = Date.parse('2026-12-02T12:00:00Z');
	expect(startWords('2026-12-02T20:00:00Z', true, now)).toMatch(/^Starts [0-9]{2}:[0-9]{2} \(.+\)$/);
	expect(startWords('2026-12-02T11:00:00Z', true, now)).toMatch(/^Started /);
	expect(startWords('2026-12-02T20:00:00Z', false, now)).toBe('');
});

describe('the start of a plan', () => {
	const night = { begins: '2026-12-02T20:00:00Z', ends: '2026-12-03T06:00:00Z' };

	it('is now without a beginning, tonight with that of the night, else later', () => {
		expect(startOf(USUAL, night)).toBe('now');
		expect(startOf({ ...USUAL, ...night }, night)).toBe('tonight');
		expect(startOf({ ...USUAL, ...night, begins: '2026-12-02T20:00:20Z' }, night)).toBe('tonight');
		expect(startOf({ ...USUAL, begins: night.begins }, night)).toBe('later');
		expect(startOf({ ...USUAL, ...night, begins: '2026-12-05T20:00:00Z' }, night)).toBe('later');
	});
});
