import type { Schemas } from '../../api/client';
import { nameOf } from '../words/names';
import { purposeWords } from './bars';

export type Clearing = Schemas['ClearingOut'];
export type ClearingSeat = Schemas['SeatClearingOut'];
export type ClearedKind = Schemas['KindOut']['kind'];

/** Kinds of stores that may be cleared, with what they are and what losing them costs. */
export const KINDS: readonly [kind: ClearedKind, what: string][] = [
	['source_cache', 'peaks, indexes and conformed sound, made again by themselves'],
	['frame_cache', 'rendered frames, made again by themselves'],
	['scratch', 'what applications write while they work'],
	['temporary', 'what broken exports left, and the system’s own temporary files'],
	['bin', 'what people threw away'],
	['backups', 'copies of projects: the newest always stay'],
	['proxies', 'made again at the price of the time that it takes'],
	['renders', 'of delivered projects alone, made again at a price']
];

const STATES: Record<Clearing['state'], string> = {
	looking: 'seats look through their stores',
	planned: 'to be read and signed',
	running: 'clearing',
	halted: 'halted',
	ended: 'ended',
	dropped: 'dropped'
};

/** `renders of Corrow`, `bin of the system` */
export const storeWords = ({ kind, app }: { kind: string; app: string }): string =>
	`${purposeWords(kind)} of ${app ? nameOf(app) : 'the system'}`;

export const stateWords = (state: Clearing['state']): string => STATES[state];

/** Seats in the order in which a person looks at them: those with something to tell first, then by what they hold. */
export function seatsInOrder(seats: readonly ClearingSeat[]): ClearingSeat[] {
	const rank = (seat: ClearingSeat): number =>
		seat.state === 'at work' ? 0 : seat.state === 'stopped' ? 2 : seat.promised ? 1 : 3;
	return [...seats].sort((a, b) => rank(a) - rank(b) || b.promised - a.promised);
}

/** How much of what a seat promised has gone, from 0 to 1. */
export const shareGone = (seat: ClearingSeat): number =>
	seat.promised ? Math.min(1, seat.freed / seat.promised) : 0;
