/** How careful a rollout is, as its form holds it. What it comes to the server alone works out. */
import type { Schemas } from '../../api/client';

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
	['opens', 'Each day from'],
	['closes', 'Until']
] as const;

/** Each limit with what is said before and after its number, and what 0 means. */
export const LIMITS = [
	['at_once', 'At once in a room', 'seats', 'any'],
	['left_working', 'Left working of each role', 'seats', 'none'],
	['in_wave', 'In a wave', 'seats', 'all'],
	['pause', 'Between waves', 'min', 'none'],
	['halt_after', 'Halt when stopped in a wave', 'seats', 'never'],
	['put_off', 'Editors may put it off', 'times', 'never']
] as const;

/** What is either so or not. */
export const CHOICES = [
	['canaries', 'Canaries go ahead'],
	['halt_on_must', 'Halt when a seat that had its turn has something new that must be settled'],
	['errands', 'Write errands for what only a person at the seat can do']
] as const;

/** Whether canaries are measured before and after. */
export const MEASURED = [
	['', 'not'],
	['play', 'how they play'],
	['render', 'how they render']
] as const;

/** What is asked only of a plan that moves stores. */
export const WHEN_MOVING = [
	'remove_old',
	'Remove the old folders of moved stores; that cannot be put back'
] as const;

/** What is asked only of a plan that holds sizes which were worked out. */
export const WHEN_WORKED_OUT = [
	'rounder',
	'Set the rounder size, where one that was worked out has one within its norm'
] as const;

/** A moment of the form, which knows no zone, as the server takes it. */
export function momentOf(local: string): string | null {
	return local ? new Date(local).toISOString() : null;
}

/** And back: the form's moment in this browser's zone. */
export function localOf(moment: string | null | undefined): string {
	if (!moment) return '';
	const told = new Date(moment);
	return new Date(told.getTime() - told.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

/** What a number field says: nothing is no limit. */
export function limitOf(text: string): number {
	const told = Number.parseInt(text, 10);
	return Number.isFinite(told) && told > 0 ? told : 0;
}

export const nameOfWave = (wave: number): string => (wave ? `Wave ${wave}` : 'Canaries');
