import { describe, expect, it } from 'vitest';
import { memoryTicks, rateScale, rateShare } from './rates';

const share = (rate: number, needed = 25): number => rateShare(rate, rateScale(needed));

describe('the bar of a rate', () => {
	it('is proportional up to the needed rate', () => {
		expect(share(0)).toBe(0);
		expect(share(12.5)).toBeCloseTo(0.2);
		expect(share(25)).toBeCloseTo(0.4);
	});

	it('grows with the logarithm beyond it, up to 40 times the needed rate', () => {
		expect(share(50)).toBeGreaterThan(share(26));
		expect(share(1000)).toBeCloseTo(1);
		expect(share(1e9)).toBe(1);
	});

	it('is empty where no rate is needed', () => {
		expect(share(240, 0)).toBe(0);
		expect(share(NaN)).toBe(0);
	});
});

describe('the ruler of memory', () => {
	const GIB = 2 ** 30;

	it('has round marks below the total', () => {
		expect(memoryTicks(64 * GIB).map((size) => size / GIB)).toEqual([0, 8, 16, 24, 32, 40, 48, 56]);
		expect(memoryTicks(3.5 * GIB).map((size) => size / GIB)).toEqual([0, 1, 2, 3]);
	});

	it('never has more than 10 marks', () => {
		for (let total = GIB; total < 2 ** 50; total *= 3) expect(memoryTicks(total).length).toBeLessThan(11);
	});
});
