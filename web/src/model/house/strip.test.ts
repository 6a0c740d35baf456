import { describe, expect, it } from 'vitest';
import type { Schemas } from '../../api/client';
import { midnights, momentAt, placeOf, placed } from './strip';

const NOW = new Date('2026-11-25T12:00:00Z').getTime();

describe('the strip of days', () => {
	it('goes from the first day to now, and stops at its ends', () => {
		expect(placeOf('2026-11-25T12:00:00Z', NOW, 30)).toBe(1);
		expect(placeOf('2026-11-10T12:00:00Z', NOW, 30)).toBe(0.5);
		expect(placeOf('2026-01-01T00:00:00Z', NOW, 30)).toBe(0);
	});

	it('gives back the moment of a place', () => {
		for (const share of [0, 0.25, 1]) {
			expect(placeOf(momentAt(share, NOW, 30).toISOString(), NOW, 30)).toBeCloseTo(share, 6);
		}
	});

	it('has a midnight for each day', () => {
		expect(midnights(NOW, 30)).toHaveLength(30);
		expect(midnights(NOW, 30).filter((day) => day.name).length).toBeGreaterThanOrEqual(4);
	});

	it('puts changes of one moment, family and cause into one mark', () => {
		const pool = { title: 'Preview pool', app: 'corrow', before: '1 GiB', after: '4 GiB' };
		const engine = { title: 'Effects', app: null, before: null, after: 'cpu' };
		const changes = [
			{ ...pool, at: '2026-11-24T00:00:00Z', family: 'memory', cause: 'ours' },
			{ ...engine, at: '2026-11-20T00:00:00Z', family: 'engine', cause: 'at the seat' },
			{ ...engine, title: 'Decode', at: '2026-11-20T00:00:00Z', family: 'engine', cause: 'at the seat' }
		] as Schemas['MovedOut'][];
		expect(placed(changes, NOW, 30).map((group) => [group.family, group.words])).toEqual([
			['engine', 'Effects: unknown to cpu; Decode: unknown to cpu'],
			['memory', 'Corrow preview pool: 1 GiB to 4 GiB']
		]);
	});
});
