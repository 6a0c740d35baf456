import { describe, expect, it } from 'vitest';
import { agesOf, cornersOf, cutsOf, roomsOfVolumes, unusedFor, type Volume, type VolumeStore } from './bars';

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
	last: null
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

it('what fills comes first, then the rooms of the others in the order of their volumes', () => {
	const full = { ...volume(0, [], 'Pan'), words: 'Nothing more can be written to it' };
	const rooms = roomsOfVolumes([full, volume(1, [], 'Pan'), volume(2, [], ''), volume(3, [], 'Pan')]);
	expect(rooms.map(({ name, volumes }) => [name, volumes.length])).toEqual([
		['They fill', 1],
		['Pan', 2],
		['Corridor', 1]
	]);
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
