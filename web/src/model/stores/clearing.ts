import type { Schemas } from '../../api/client';
import { moment } from '../words/moment';
import { nameOf } from '../words/names';
import { storage } from '../words/sizes';
import { purposeWords } from './bars';

export type Clearing = Schemas['ClearingOut'];
export type ClearingSeat = Schemas['SeatClearingOut'];
export type ClearedKind = Schemas['KindOut']['kind'];

/** Kinds of stores that may be cleared, with what they are and what losing them costs. */
export const KINDS: readonly [kind: ClearedKind, what: string][] = [
	['source_cache', 'peaks, indexes and conformed sound; recreated automatically'],
	['frame_cache', 'rendered frames; recreated automatically'],
	['scratch', 'temporary files of running applications'],
	['temporary', 'remains of failed exports, and the system’s temporary files'],
	['bin', 'files in the trash'],
	['backups', 'copies of projects; the newest are always kept'],
	['proxies', 'rendered files; recreating them takes time'],
	['renders', 'files of delivered projects only; recreating them takes time']
];

const STATES: Record<Clearing['state'], string> = {
	looking: 'seats scan their stores',
	planned: 'needs a signature',
	running: 'clearing',
	halted: 'halted',
	ended: 'ended',
	dropped: 'dropped'
};

/** `renders of Corrow`, `bin of the system` */
export const storeWords = ({ kind, app }: { kind: string; app: string }): string =>
	`${app ? nameOf(app) : 'System'} ${purposeWords(kind)}`;

export const stateWords = (state: Clearing['state']): string => STATES[state];

/** Seats in the order in which a person looks at them: those with something to tell first, then by what they hold. */
export function seatsInOrder(seats: readonly ClearingSeat[]): ClearingSeat[] {
	const rank = (seat: ClearingSeat): number =>
		seat.state === 'at work' ? 0 : seat.state === 'stopped' ? 2 : seat.promised ? 1 : 3;
	return [...seats].sort((a, b) => rank(a) - rank(b) || b.promised - a.promised);
}

export type SameMessage = { message: string; seats: ClearingSeat[] };

const FOLDED_FROM = 2; // seats with the same message: fewer are listed one by one

/** Seats that a person looks at one by one, and those without anything to delete, together by their message. */
export function exceptionsFirst(seats: readonly ClearingSeat[]): {
	listed: ClearingSeat[];
	folded: SameMessage[];
} {
	const alike = new Map<string, ClearingSeat[]>();
	for (const seat of seats)
		if (!seat.promised && !seat.cleared && seat.state !== 'at work' && seat.state !== 'looking')
			alike.set(seat.message, [...(alike.get(seat.message) ?? []), seat]);
	const folded = [...alike]
		.map(([message, those]) => ({ message: message || 'nothing to delete', seats: those }))
		.filter(({ seats: those }) => those.length >= FOLDED_FROM);
	const within = new Set(folded.flatMap(({ seats: those }) => those));
	return { listed: seatsInOrder(seats.filter((seat) => !within.has(seat))), folded };
}

/** How much of what a seat promised has gone, from 0 to 1. */
export const shareGone = (seat: ClearingSeat): number =>
	seat.promised ? Math.min(1, seat.cleared / seat.promised) : 0;

export type StandingCare = Schemas['StandingCareOut'];
type CareFields = Schemas['RuleEditIn']['fields'];
type CareForm = {
	name: string;
	kinds: string[];
	unused_days: number;
	each: string;
	opens: string;
	closes: string;
	most: string;
	free: string;
	because: string;
};

export const DAYS = ['day', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
const CARE: CareForm = {
	name: '',
	kinds: [],
	unused_days: 30,
	each: 'sunday',
	opens: '03:00',
	closes: '07:00',
	most: '500 GB',
	free: '',
	because: ''
};

/** A sentence as its form shows it; one that is new begins as most houses write it. */
export const careOf = (fields: Record<string, unknown>): CareForm => ({ ...CARE, ...fields });

/** What the form says; gaps that may stay empty are taken away. */
export const careGiven = (care: CareForm): CareFields => ({
	...care,
	free: care.free || null,
	because: care.because || null
});

const onSeats = (count: number): string => (count === 1 ? '1 seat' : `${count} seats`);

/** `decides of 3 stores on 2 seats: 1.2 TB, of which nobody used 300 GB for a month; a person agrees first.` */
export function careImpactWords(row: Schemas['CareImpactOut']): string {
	if (!row.seats) return 'applies to no seat.';
	const stores = row.stores === 1 ? '1 store' : `${row.stores} stores`;
	const unused = row.unused ? `, ${storage(row.unused)} unused for a month` : '';
	const first = row.is_agreed ? 'approved' : 'the first run needs a signature';
	return `applies to ${stores} on ${onSeats(row.seats)}: ${storage(row.size)}${unused}; ${first}.`;
}

/** Where a sentence stands: who agreed to it and how much, or what it waits for, and when it comes next. */
export function agreedWords(care: StandingCare): string {
	if (!care.seats) return 'Applies to no seat.';
	const next = care.next ? ` Next run: ${moment(care.next)} on ${onSeats(care.seats)}.` : '';
	if (care.state === 'stopped')
		return `Stopped by ${care.stopped_by}, ${moment(care.stopped_at)}: ${care.why}`;
	if (care.state === 'waits') return `Needs a signature.${next}`;
	if (care.state === 'new') return `Not approved yet: the first run needs a signature.${next}`;
	return `${care.agreed_by} approved up to ${storage(care.agreed_size)}, ${moment(care.agreed_at)}.${next}`;
}

/** What a turn came to, in a few words. */
export function turnWords(turn: Schemas['CareTurnOut']): string {
	if (turn.problem && (turn.state === 'planned' || turn.state === 'none')) return turn.problem;
	if (turn.state === 'none') return 'not started';
	if (turn.state === 'dropped') return turn.promised ? 'not signed in time' : 'nothing to delete';
	const signed = ['running', 'halted', 'ended'].includes(turn.state);
	const by = signed ? (turn.by_itself ? 'automatic' : 'signed by a person') : '';
	return [STATES[turn.state], onSeats(turn.seats), by].filter(Boolean).join(', ');
}
