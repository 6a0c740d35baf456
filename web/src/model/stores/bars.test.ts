import { describe, expect, it } from 'vitest';
import {
	agesOf,
	cornersOf,
	cutsOf,
	fillingVolumes,
	roomsOfVolumes,
	unusedFor,
	weeksOf,
	yearLine,
	type Volume,
	type VolumeStore
} from './bars';

const store = (purpose: string, size: number) => ({
	name: `${purpose} corrow`,
	purpose,
	app: 'corrow',
	size,
	unused: 0
});
const volume = (free: number, stores: Volume['stores'], room = 'Kiln'): Volume => ({
	seat: 'pan-03',
	seats: 1,
	room,
	volume: 'v1',
	mount: '/fast',
	kind: 'ssd',
	system: false,
	capacity: 100,
	free,
	stores,
	words: '',
	per_day: null,
	full_on: null,
	first: null,
	last: null,
	used_weekly: []
});

describe('a bar', () => {
	it('is cut by store in one order, and the rest of what is used comes last', () => {
		const cuts = cutsOf(volume(30, [store('exports', 10), store('source_cache', 40)]));
		expect(cuts.map(({ purpose, share }) => [purpose, Math.round(share * 100)])).toEqual([
			['source_cache', 40],
			['exports', 10],
			['rest', 20]
		]);
	});

	it('never shows more than is used, whatever stores say', () => {
		const cuts = cutsOf(volume(80, [store('proxies', 90), store('renders', 5)]));
		expect(cuts).toHaveLength(1);
		expect(cuts[0]?.share).toBeCloseTo(0.2);
		expect(cutsOf(volume(100, []))).toEqual([]);
	});
});

it('separates volumes that fill up from the others, which are grouped by room', () => {
	const full = { ...volume(0, [], 'Pan'), words: 'Full' };
	const volumes = [full, volume(1, [], 'Pan'), volume(2, [], ''), volume(3, [], 'Pan')];
	expect(fillingVolumes(volumes)).toEqual([full]);
	expect(roomsOfVolumes(volumes).map(({ name, volumes: those }) => [name, those.length])).toEqual([
		['Pan', 2],
		['Corridor', 1]
	]);
});

describe('the year of a volume', () => {
	const now = Date.parse('2026-12-02T12:00:00Z');
	const drawn = (used_weekly: number[], first: string | null = null, last: string | null = null) =>
		yearLine({ capacity: 100, used_weekly, first, last }, 50, 600, 40, now);

	it('ends today at five sixths of the width, with the capacity at the top', () => {
		expect(drawn([50, 100])).toEqual({
			line: 'M490 20L500 0',
			area: 'M490 20L500 0L500 40L490 40Z',
			wedge: '',
			today: 500
		});
	});

	it('shows no more weeks than asked for, and no use above the capacity', () => {
		expect(drawn(Array.from({ length: 80 }, () => 200)).line.split('L')).toHaveLength(51);
		expect(drawn([200]).line).toBe('M500 0');
		expect(drawn([])).toMatchObject({ line: '', area: '' });
	});

	it('has a wedge up to the days on which it may be full', () => {
		expect(drawn([50], '2026-12-09T12:00:00Z', '2026-12-16T12:00:00Z').wedge).toBe('M500 20L510 0L520 0Z');
		expect(drawn([50], '2026-12-09T12:00:00Z').wedge).toBe('M500 20L510 0L900 20Z');
		expect(drawn([50], '2026-11-09T12:00:00Z', '2026-12-02T12:00:00Z').wedge).toBe('M500 20L500 0L500 0Z');
	});

	it('spans the longest record of the list, from 8 to 52 weeks', () => {
		const recorded = (weeks: number) => ({ ...volume(1, []), used_weekly: Array(weeks).fill(1) });
		expect(weeksOf([])).toBe(8);
		expect(weeksOf([recorded(4), recorded(21)])).toBe(20);
		expect(weeksOf([recorded(53)])).toBe(52);
	});
});

it('a line has corners only where a size changes', () => {
	expect(cornersOf([5, 5, 7, 7, 3])).toEqual([
		[0, 5],
		[2, 5],
		[2, 7],
		[4, 7],
		[4, 3],
		[4, 3]
	]);
	expect(cornersOf([])).toEqual([]);
	expect(cornersOf([4])).toEqual([[0, 4]]);
});

describe('what nobody used', () => {
	const counted = (...days: number[]): VolumeStore =>
		({ unused_for: days.map((day) => ({ days: day, size: day * 1e9 })) }) as VolumeStore;

	it('stands under each age that some store is counted by', () => {
		expect(agesOf([counted(30, 7), counted(), counted(30, 180)])).toEqual([7, 30, 180]);
		expect(agesOf([])).toEqual([]);
	});

	it('is unknown where the seat does not count it', () => {
		expect([unusedFor(counted(7), 7), unusedFor(counted(7), 30)]).toEqual(['7 GB', 'unknown']);
	});
});
