/** What holds of every plan, rollout, trial and store that the interface lays out: nothing is lost, nothing twice. */
import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Schemas } from '../api/client';
import { ratioScale, ratioShare, rowsOf, scaleOf, shareOf, ticksOf, type Run } from './measure/dots';
import { byWave, counted, FEW, piles, toldSingly } from './rollout/beads';
import { sameChanges, seatsInShort } from './rollout/planGroups';
import { cornersOf, cutsOf, fillingVolumes, roomsOfVolumes, type Volume } from './stores/bars';
import { seatsInOrder, shareGone, type ClearingSeat } from './stores/clearing';
import { troublesByKind, type Trouble } from './stores/projects';
import { detailOf } from './words/detail';
import { byRoom } from './words/errands';
import { CHECKS, given, partsOf, type Parts } from './words/rule';
import { memory, storage } from './words/sizes';

const SOME = { maxLength: 20 };
const NAME = fc.constantFrom('pan-01', 'pan-02', 'loft-01', 'weigh-01');

const LEGS = fc.array(
	fc.record({
		seat: NAME,
		wave: fc.integer({ min: 0, max: 4 }),
		step: fc.constantFrom('waiting', 'applying', 'proving'),
		state: fc.constantFrom('waiting', 'moving', 'settled', 'stopped', 'halted'),
		troubled: fc.boolean()
	}) as unknown as fc.Arbitrary<Schemas['LegOut']>,
	SOME
);

test('waves and piles hold every seat of a rollout once', () => {
	fc.assert(
		fc.property(LEGS, (legs) => {
			const waves = byWave(legs);
			expect(waves.map(([wave]) => wave)).toEqual(
				[...new Set(legs.map((leg) => leg.wave))].sort((a, b) => a - b)
			);
			expect(waves.flatMap(([, those]) => those)).toHaveLength(legs.length);
			expect(piles(legs).reduce((sum, pile) => sum + pile.count, 0)).toBe(legs.length);
			const words = counted(legs);
			const numbers = [...words.matchAll(/\d+/g)].map(Number);
			expect(numbers.reduce((sum, count) => sum + count, 0)).toBe(legs.length);
		})
	);
});

test('of many seats those with trouble are always told one by one', () => {
	fc.assert(
		fc.property(LEGS, fc.boolean(), (legs, all) => {
			const told = new Set(toldSingly(legs, all));
			for (const leg of legs) if (leg.troubled || all || legs.length <= FEW) expect(told.has(leg)).toBe(true);
		})
	);
});

test('equal changes of a plan are told once, with each of their seats', () => {
	const plan = fc.uniqueArray(
		fc.record({
			seat: NAME,
			left: fc.constant([]),
			changes: fc.uniqueArray(
				fc.record({
					setting: fc.constantFrom('a', 'b'),
					title: fc.constant('t'),
					app: fc.constantFrom(null, 'corrow'),
					shown_before: fc.constantFrom('1', '2'),
					shown_after: fc.constant('3'),
					shown_rounder: fc.constant('')
				}),
				{ selector: (change) => `${change.setting}/${change.app}`, maxLength: 4 }
			)
		}),
		{ selector: (seat) => seat.seat }
	) as unknown as fc.Arbitrary<Schemas['SeatPlanOut'][]>;
	fc.assert(
		fc.property(plan, (seats) => {
			const same = sameChanges(seats);
			const count = seats.reduce((sum, seat) => sum + seat.changes.length, 0);
			expect(same.reduce((sum, change) => sum + change.seats.length, 0)).toBe(count);
			expect(new Set(same.map((change) => change.key)).size).toBe(same.length);
			const sizes = same.map((change) => change.seats.length);
			expect(sizes).toEqual([...sizes].sort((a, b) => b - a));
		})
	);
});

test('seats in short say how many there are', () => {
	fc.assert(
		fc.property(fc.array(NAME, SOME), fc.integer({ min: 1, max: 6 }), (seats, most) => {
			const words = seatsInShort(seats, most);
			const more = Number(/and (\d+) more$/.exec(words)?.[1] ?? 0);
			const named = words
				.replace(/ and \d+ more$/, '')
				.split(', ')
				.filter(Boolean).length;
			expect(named + more).toBe(seats.length);
		})
	);
});

const VOLUME = fc
	.record({
		capacity: fc.integer({ min: 1, max: 1e12 }),
		used: fc.double({ min: 0, max: 1, noNaN: true }),
		room: fc.constantFrom('', 'Loft'),
		words: fc.constantFrom('', 'full in 9 days'),
		stores: fc.array(
			fc.record({
				name: fc.constant('store'),
				purpose: fc.constantFrom('renders', 'backups', 'source_cache', 'unheard of'),
				size: fc.integer({ min: 0, max: 1e12 })
			}),
			{ maxLength: 6 }
		)
	})
	.map(({ used, ...volume }) => ({
		...volume,
		free: Math.round(volume.capacity * (1 - used))
	})) as unknown as fc.Arbitrary<Volume>;

test('the parts of a bar are what is used of the volume, whatever stores say', () => {
	fc.assert(
		fc.property(VOLUME, (volume) => {
			const cuts = cutsOf(volume);
			const together = cuts.reduce((sum, cut) => sum + cut.share, 0);
			expect(together).toBeCloseTo((volume.capacity - volume.free) / volume.capacity, 6);
			expect(cuts.every((cut) => cut.share > 0)).toBe(true);
		})
	);
});

test('every volume is either filling up or in one room', () => {
	fc.assert(
		fc.property(fc.array(VOLUME, SOME), (volumes) => {
			const filling = fillingVolumes(volumes);
			expect(filling).toEqual(volumes.filter((volume) => volume.words));
			expect(roomsOfVolumes(volumes).flatMap((room) => room.volumes)).toHaveLength(
				volumes.length - filling.length
			);
		})
	);
});

test('the corners of a line of sizes draw every day’s size again', () => {
	fc.assert(
		fc.property(fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 40 }), (sizes) => {
			const corners = cornersOf(sizes);
			sizes.forEach((size, day) => {
				const last = corners.filter(([at]) => at <= day).at(-1);
				expect(last?.[1]).toBe(size);
			});
		})
	);
});

test('seats of a plan of clearing are all there, those at work first', () => {
	const seats = fc.array(
		fc.record({
			seat: NAME,
			room: fc.constant(''),
			message: fc.constant(''),
			state: fc.constantFrom('looking', 'planned', 'waiting', 'at work', 'done', 'stopped'),
			promised: fc.nat(1000),
			cleared: fc.nat(2000)
		}) as fc.Arbitrary<ClearingSeat>,
		SOME
	);
	fc.assert(
		fc.property(seats, (list) => {
			const sorted = seatsInOrder(list);
			expect(new Set(sorted)).toEqual(new Set(list));
			const working = sorted.map((seat) => seat.state === 'at work');
			expect(working).toEqual([...working].sort((a, b) => Number(b) - Number(a)));
			for (const seat of list) expect(shareGone(seat) >= 0 && shareGone(seat) <= 1).toBe(true);
		})
	);
});

test('troubles of a project are all told, each under one kind', () => {
	const kinds = ['duplicate', 'unused', 'missing', 'misplaced', 'odd', 'mixed'] as const;
	const list = fc.array(
		fc.constantFrom(...kinds).map((trouble) => ({ trouble, do: trouble }) as unknown as Trouble),
		SOME
	);
	fc.assert(
		fc.property(list, (troubles) => {
			const told = troublesByKind(troubles);
			expect(told.flatMap((kind) => kind.rows)).toHaveLength(troubles.length);
			for (const kind of told) expect(new Set(kind.rows.map((row) => row.trouble)).size).toBe(1);
		})
	);
});

test('one walks through each room once, past every errand', () => {
	const stops = fc.array(
		fc.record({
			room: fc.constantFrom('', 'Loft', 'Pan House'),
			seat: NAME,
			errands: fc.array(fc.record({ id: fc.nat() }))
		}),
		SOME
	) as unknown as fc.Arbitrary<Schemas['StopOut'][]>;
	fc.assert(
		fc.property(stops, (way) => {
			const rooms = byRoom(way);
			expect(new Set(rooms.map((room) => room.name)).size).toBe(rooms.length);
			expect(rooms.flatMap((room) => room.errands)).toHaveLength(way.flatMap((stop) => stop.errands).length);
		})
	);
});

const FIGURE = fc.double({ min: 0.001, max: 1e6, noNaN: true });

test('a scale holds its figures, and its marks are on it', () => {
	fc.assert(
		fc.property(fc.array(FIGURE, { minLength: 1, maxLength: 30 }), (figures) => {
			const scale = scaleOf(figures);
			for (const figure of figures) {
				const share = shareOf(figure, scale);
				expect(share > 0 && share < 1).toBe(true);
			}
			const ticks = ticksOf(scale);
			expect(ticks.length).toBeLessThanOrEqual(8);
			expect(ticks).toEqual([...ticks].sort((a, b) => a - b));
		}),
		{ examples: [[[0.001, 0.0010000000000000002]]] }
	);
});

test('runs with a figure are dots of their condition, the first on top', () => {
	const runs = fc.array(
		fc.record({
			condition: fc.constantFrom('a', 'b'),
			figure: fc.option(FIGURE)
		}) as unknown as fc.Arbitrary<Run>,
		{ minLength: 1, maxLength: 30 }
	);
	fc.assert(
		fc.property(runs, (list) => {
			const made = list.filter((run) => run.figure !== null);
			const rows = rowsOf(['a', 'b'], list, scaleOf(made.map((run) => run.figure as number)));
			expect(rows.flatMap((row) => row.dots)).toHaveLength(made.length);
			for (const row of rows) {
				const heights = row.dots.map((dot) => dot.y);
				expect(heights).toEqual([...heights].sort((a, b) => a - b));
				expect(heights.every((y) => y >= 0 && y <= 1)).toBe(true);
			}
		})
	);
});

test('ratios stand within their scale, no change in the middle', () => {
	const ratio = fc.record({ low: fc.option(FIGURE), high: fc.option(FIGURE), ratio: fc.option(FIGURE) });
	fc.assert(
		fc.property(fc.array(ratio, SOME), (ratios) => {
			const scale = ratioScale(ratios);
			expect(ratioShare(1, scale)).toBeCloseTo(0.5, 9);
			for (const { low, high } of ratios)
				for (const value of [low, high])
					expect(ratioShare(value, scale) >= 0 && ratioShare(value, scale) <= 1).toBe(true);
		})
	);
});

test('a larger size is never said to be smaller', () => {
	const units = { B: 0, kB: 1, MB: 2, GB: 3, TB: 4, KiB: 1, MiB: 2, GiB: 3, TiB: 4 };
	const back = (words: string, base: number): number => {
		const [figure, unit] = words.split(' ') as [string, keyof typeof units];
		return Number(figure) * base ** units[unit];
	};
	const bytes = fc.nat(2 ** 31).map((size) => size * 1000);
	fc.assert(
		fc.property(bytes, bytes, (one, other) => {
			const [small, large] = [Math.min(one, other), Math.max(one, other)];
			expect(back(storage(small), 1000)).toBeLessThanOrEqual(back(storage(large), 1000));
			expect(back(memory(small), 1024)).toBeLessThanOrEqual(back(memory(large), 1024));
		})
	);
});

test('the detail of an entry is a line of words, whatever it holds', () => {
	fc.assert(
		fc.property(fc.dictionary(fc.string(), fc.jsonValue()), (detail) => {
			const words = detailOf(detail as Record<string, unknown>);
			expect(typeof words).toBe('string');
			expect(words).not.toContain('[object');
		})
	);
});

const PARTS: fc.Arbitrary<Parts> = fc.record({
	setting: fc.constantFrom('memory.held_back', 'power.profile'),
	app: fc.constantFrom('', 'corrow'),
	check: fc.constantFrom(...CHECKS.map(([name]) => name)),
	values: fc.constantFrom('steady', '4 GiB, 8 GiB', 'true', '12'),
	when: fc.constantFrom('', 'role is online'),
	versions: fc.constantFrom('', '8.*'),
	severity: fc.constantFrom('must', 'should'),
	because: fc.constantFrom('', 'the system pages otherwise'),
	evidence: fc.constantFrom('untested', 'measured'),
	rests_on: fc.constantFrom('', 'trial 3'),
	fix: fc.constantFrom('', '6 GiB'),
	locked: fc.boolean()
});

test('a rule that nobody changed has nothing to write, and one that was changed reads as it was made', () => {
	fc.assert(
		fc.property(PARTS, PARTS, (was, now) => {
			expect(given(was, was)).toEqual({});
			const base = given(partsOf({}), was) as Record<string, unknown>;
			const patch = given(partsOf(base), now) as Record<string, unknown>;
			const written = Object.fromEntries(
				Object.entries({ ...base, ...patch }).filter(([, value]) => value !== null)
			);
			expect(partsOf(written)).toEqual(now);
		})
	);
});
