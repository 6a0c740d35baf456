/** Many seats on one track: how many stand at each step, and which are told one by one. */
import type { Schemas } from '../../api/client';

type Leg = Schemas['LegOut'];
export type Pile = { step: string; state: Leg['state']; count: number };

export const FEW = 12; // seats of a wave that are all told one by one
const ORDER: Leg['state'][] = ['settled', 'moving', 'waiting', 'halted', 'stopped'];

/** Seats of one wave, in the order in which the waves come. */
export function byWave(legs: Leg[]): [number, Leg[]][] {
	const waves = new Map<number, Leg[]>();
	for (const leg of legs) waves.set(leg.wave, [...(waves.get(leg.wave) ?? []), leg]);
	return [...waves].sort(([one], [two]) => one - two);
}

/** A pile for each step and state at which seats stand. */
export function piles(legs: Leg[]): Pile[] {
	const found = new Map<string, Pile>();
	for (const { step, state } of legs) {
		const pile = found.get(`${step} ${state}`) ?? { step, state, count: 0 };
		found.set(`${step} ${state}`, { ...pile, count: pile.count + 1 });
	}
	return [...found.values()].sort((one, two) => ORDER.indexOf(one.state) - ORDER.indexOf(two.state));
}

/** `30 settled, 3 moving, 15 waiting`. */
export function counted(legs: Leg[]): string {
	const told = ORDER.map((state) => [legs.filter((leg) => leg.state === state).length, state] as const);
	return told
		.filter(([count]) => count)
		.map(([count, state]) => `${count} ${state}`)
		.join(', ');
}

/** Those of a wave that are told one by one: all where they are few or asked for, else the troubled. */
export function toldSingly(legs: Leg[], all: boolean): Leg[] {
	return all || legs.length <= FEW ? legs : legs.filter((leg) => leg.troubled);
}
