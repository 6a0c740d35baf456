import { expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { byWave, counted, piles, toldSingly } from './beads';

type Leg = Schemas['LegOut'];

const leg = (number: number, told: Partial<Leg> = {}): Leg =>
	({ seat: `pan-${number}`, wave: 1, state: 'waiting', step: 'waiting', troubled: false, ...told }) as Leg;
const many = (count: number, told: Partial<Leg> = {}) =>
	Array.from({ length: count }, (_, n) => leg(n, told));

test('seats come together by wave, canaries first', () => {
	const waves = byWave([leg(1, { wave: 2 }), leg(2, { wave: 0 }), leg(3, { wave: 2 })]);
	expect(waves.map(([wave, legs]) => [wave, legs.length])).toEqual([
		[0, 1],
		[2, 2]
	]);
});

test('seats at the same step in the same state are on one pile, what stopped on top', () => {
	const legs = [
		...many(2, { state: 'stopped', step: 'applying' }),
		...many(3, { state: 'settled', step: 'settled' }),
		...many(1, { state: 'moving', step: 'applying' })
	];
	expect(piles(legs)).toEqual([
		{ step: 'settled', state: 'settled', count: 3 },
		{ step: 'applying', state: 'moving', count: 1 },
		{ step: 'applying', state: 'stopped', count: 2 }
	]);
	expect(counted(legs)).toBe('3 settled, 1 running, 2 stopped');
});

test('of many seats only the troubled are told one by one, of few and when asked all', () => {
	const legs = [...many(20), leg(21, { troubled: true })];
	expect(toldSingly(legs, false).map((one) => one.seat)).toEqual(['pan-21']);
	expect(toldSingly(legs, true)).toHaveLength(21);
	expect(toldSingly(legs.slice(0, 12), false)).toHaveLength(12);
});
