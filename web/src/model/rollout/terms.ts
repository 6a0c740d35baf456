/** How careful a rollout is, as its form holds it. What it comes to the server alone works out. */
import type { Schemas } from '../../api/client';
import { moment } from '../words/moment';
import { timeZone } from '../words/zone';

export type Terms = Schemas['TermsIn'];
export const USUAL: Terms = {
	canaries: true,
	at_once: 0,
	left_working: 0,
	in_wave: 0,
	pause: 0,
	halt_after: 2,
	halt_on_must: true,
	put_off: 3,
	errands: true,
	remove_old: false,
	measure: '',
	begins: null,
	ends: null,
	opens: '',
	closes: '',
	rounder: false
};

/** The hours of a day between which seats are touched. */
export const HOURS = [
	['opens', 'Start time each day'],
	['closes', 'Until']
] as const;

/** Each limit with what is said before and after its number, and what 0 means. */
export const LIMITS = [
	['at_once', 'Max. at the same time per room', 'seats', 'any'],
	['left_working', 'Seats left working per role', 'seats', 'none'],
	['in_wave', 'Seats per wave', 'seats', 'all'],
	['pause', 'Minutes between waves', 'min', 'none'],
	['halt_after', 'Halt at failed seats per wave', 'seats', 'never'],
	['put_off', 'Editors may postpone', 'times', 'never']
] as const;

/** What is either so or not. */
export const CHOICES = [
	['canaries', 'Canaries first'],
	['halt_on_must', 'Halt when a corrected seat has a new critical finding'],
	['errands', 'Create errands for work that needs a person at the seat']
] as const;

/** Whether canaries are measured before and after. */
export const MEASURED = [
	['', 'not'],
	['play', 'playback'],
	['render', 'render time']
] as const;

/** What is asked only of a plan that moves stores. */
export const WHEN_MOVING = [
	'remove_old',
	'Delete the old folders of moved stores (cannot be undone)'
] as const;

/** What is asked only of a plan that holds sizes which were worked out. */
export const WHEN_WORKED_OUT = ['rounder', 'Round computed sizes where the norm allows it'] as const;

/** What a number field says: nothing is no limit. */
export function limitOf(text: string): number {
	const told = Number.parseInt(text, 10);
	return Number.isFinite(told) && told > 0 ? told : 0;
}

export const nameOfWave = (wave: number): string => (wave ? `Wave ${wave}` : 'Canaries');

/** `Starts 20:00 (UTC)` before that time, `Started Tue 20:00 (UTC)` after it. */
export function startWords(startsAt: string, running: boolean, now = Date.now()): string {
	const ahead = Date.parse(startsAt) > now;
	if (ahead && !running) return '';
	return `${ahead ? 'Starts' : 'Started'} ${moment(startsAt, now)} (${timeZone()})`;
}

export type Start = 'now' | 'tonight' | 'later';

/** Which of the three starts these terms are; `night` is the coming one. */
export function startOf({ begins, ends }: Terms, night: { begins: string; ends: string }): Start {
	if (!begins) return 'now';
	return sameMinute(begins, night.begins) && sameMinute(ends, night.ends) ? 'tonight' : 'later';
}

/** A night that is going on begins now, and now moves while somebody reads: half a minute is the same. */
function sameMinute(one: string | null | undefined, other: string): boolean {
	return Boolean(one) && Math.abs(Date.parse(one ?? '') - Date.parse(other)) < 60_000;
}
