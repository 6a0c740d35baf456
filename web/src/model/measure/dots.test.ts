import { describe, expect, it } from 'vitest';
import { ratioScale, ratioShare, rowsOf, scaleOf, shareOf, ticksOf, type Run } from './dots';

const run = (id: number, condition: string, figure: number | null): Run => ({
	id,
	seat: 'pan-01',
	block: Math.ceil(id / 2),
	place: id % 2,
	condition,
	figure,
	thrown: [],
	harmful: false,
	beside: null,
	ended_at: null,
	has_samples: false
});

describe('runs', () => {
	const runs = [run(1, 'A', 38), run(2, 'B', 42), run(3, 'B', 41), run(4, 'A', 37), run(5, 'A', null)];

	it('stand on the row of their condition, the first on top, and those to come nowhere', () => {
		const scale = scaleOf([38, 42, 41, 37]);
		const [a, b] = rowsOf(['A', 'B'], runs, scale, { B: 41.5 });
		expect(a?.dots.map((dot) => dot.run.id)).toEqual([1, 4]);
		expect(a?.dots.map((dot) => dot.y)).toEqual([0, 1]);
		expect(b?.dots[0]?.x).toBeGreaterThan(b?.dots[1]?.x ?? 1);
		expect(a?.mean).toBeNull();
		expect(b?.mean).toBeCloseTo(shareOf(41.5, scale));
	});

	it('a condition without a run has no mean', () => {
		expect(rowsOf(['C'], runs, { low: 0, high: 1 })[0]).toEqual({ name: 'C', dots: [], mean: null });
	});

	it('of one figure stand in the middle', () => {
		expect(shareOf(40, scaleOf([40]))).toBeCloseTo(0.5);
	});
});

describe('ticks', () => {
	it('are round and lie within', () => {
		expect(ticksOf({ low: 36.6, high: 42.4 })).toEqual([37, 38, 39, 40, 41, 42]);
		expect(ticksOf({ low: 0.11, high: 0.42 }, 4)).toEqual([0.2, 0.3, 0.4]);
	});
});

describe('ratios', () => {
	const scale = ratioScale([{ low: 1.39, high: 1.49, ratio: 1.44 }]);

	it('have 1 in the middle, and twice as fast as far from it as half as fast', () => {
		expect(ratioShare(1, scale)).toBeCloseTo(0.5);
		expect(ratioShare(1.2, scale) - 0.5).toBeCloseTo(0.5 - ratioShare(1 / 1.2, scale));
	});

	it('that nothing bounds run out of the picture', () => {
		expect([ratioShare(null, scale), ratioShare(0, scale), ratioShare(1e9, scale)]).toEqual([1, 0, 1]);
		expect(ratioScale([{ low: 0, high: null, ratio: null }]).high).toBeCloseTo(Math.log(1.25) * 1.06);
		expect(ratioScale([{ low: 1e-9, high: 1e9, ratio: 1 }]).high).toBeCloseTo(Math.log(8));
	});
});
