/** Many seats on one track: how many are at each step, and which have a line of their own. */
import type { Schemas } from '../../api/client';

type Leg = Schemas['LegOut'];
export type Pile = { step: string; state: Leg['state']; count: number };

export const FEW = 12; // seats of a wave that all have a line of their own
const ORDER: Leg['state'][] = ['settled', 'moving', 'waiting', 'halted', 'stopped'];

/** The seats of each wave, in the order of the waves. */
export function byWave(legs: Leg[]): [number, Leg[]][] {
	const waves = new Map<number, Leg[]>();
	for (const leg of legs) waves.set(leg.wave, [...(waves.get(leg.wave) ?? []), leg]);
	return [...waves].sort(([one], [two]) => one - two);
}

/** One pile for each step and state that has seats. */
export function piles(legs: Leg[]): Pile[] {
	const found = new Map<string, Pile>();
	for (const { step, state } of legs) {
		const pile = found.get(`${step} ${state}`) ?? { step, state, count: 0 };
		found.set(`${step} ${state}`, { ...pile, count: pile.count + 1 });
	}
	return [...found.values()].sort((one, two) => ORDER.indexOf(one.state) - ORDER.indexOf(two.state));
}

/** The state of a seat in words: what the API calls moving is running in every sentence. */
export const stateWord = (state: Leg['state']): string => (state === 'moving' ? 'running' : state);

/** Seats counted by state: `30 settled, 3 running, 15 waiting`. */
export function counted(legs: Leg[]): string {
	return ORDER.map((state) => [legs.filter((leg) => leg.state === state).length, state] as const)
		.filter(([count]) => count)
		.map(([count, state]) => `${count} ${stateWord(state)}`)
		.join(', ');
}

/** The seats of a wave with a line of their own: all if they are few or asked for, else those in trouble. */
export function toldSingly(legs: Leg[], all: boolean): Leg[] {
	return all || legs.length <= FEW ? legs : legs.filter((leg) => leg.troubled);
}
