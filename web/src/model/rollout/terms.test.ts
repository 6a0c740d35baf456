import { expect, test } from 'vitest';
import { limitOf, localOf, momentOf, nameOfWave } from './terms';

test('a moment of the form comes back as it was', () => {
	expect(localOf(momentOf('2026-03-02T18:30'))).toBe('2026-03-02T18:30');
	expect(momentOf('')).toBeNull();
	expect(localOf(null)).toBe('');
});

test('no number is no limit', () => {
	expect(['', '0', '-3', 'x', '12'].map(limitOf)).toEqual([0, 0, 0, 0, 12]);
});

test('the first wave has a name', () => {
	expect([0, 1].map(nameOfWave)).toEqual(['Canaries', 'Wave 1']);
});
