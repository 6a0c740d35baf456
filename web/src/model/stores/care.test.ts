import { expect, it } from 'vitest';
import type { Schemas } from '../../api/client';
import { agreedWords, careGiven, careImpactWords, careOf, turnWords, type StandingCare } from './clearing';
import { projectWords, troublesByKind, type ProjectRow, type Trouble } from './projects';

const CARE: StandingCare = {
	name: 'Old caches',
	layer: 'Whole facility',
	applies: 'every seat',
	sentence: '',
	because: '',
	state: 'agreed',
	seats: 2,
	stores: 3,
	size: 1.2e12,
	unused: 3e11,
	next: null,
	agreed_by: 'ana',
	agreed_at: '2026-11-02T08:00:00Z',
	agreed_size: 2e9,
	stopped_by: null,
	stopped_at: null,
	why: '',
	turns: []
};
const TURN: Schemas['CareTurnOut'] = {
	opens: '2026-11-02T03:00:00Z',
	clearing: 4,
	state: 'ended',
	by_itself: true,
	seats: 2,
	promised: 10,
	cleared: 10,
	problem: ''
};
const ROW = {
	fault: '',
	items: 20,
	used: 9,
	missing: 1,
	duplicates: 2,
	size: 9e9,
	unused: 4e9
} as ProjectRow;
const trouble = (kind: Trouble['trouble']): Trouble => ({
	trouble: kind,
	items: 1,
	paths: [],
	size: 0,
	why: '',
	do: `mend ${kind}`
});

it('a sentence says who agreed to how much, or what it waits for', () => {
	expect(agreedWords(CARE)).toContain('ana approved up to 2 GB');
	expect(agreedWords({ ...CARE, state: 'new' })).toContain('Not approved yet');
	expect(agreedWords({ ...CARE, state: 'waits' })).toContain('Needs a signature');
	expect(agreedWords({ ...CARE, state: 'stopped', stopped_by: 'ben', why: 'audit' })).toContain('audit');
	expect(agreedWords({ ...CARE, seats: 0 })).toBe('Applies to no seat.');
});

it('a turn says what it came to, and its problem only while it waits or where nothing began', () => {
	expect(turnWords(TURN)).toBe('ended, 2 seats, automatic');
	expect(turnWords({ ...TURN, state: 'planned', problem: 'it waits open' })).toBe('it waits open');
	expect(turnWords({ ...TURN, state: 'planned', by_itself: false })).toBe('needs a signature, 2 seats');
	expect(turnWords({ ...TURN, by_itself: false, problem: 'it waited' })).toBe(
		'ended, 2 seats, signed by a person'
	);
	expect(turnWords({ ...TURN, state: 'dropped', promised: 0 })).toBe('nothing to delete');
	expect(turnWords({ ...TURN, state: 'none', clearing: null })).toBe('not started');
});

it('the impact of a sentence says what it decides of, and whether a person agrees first', () => {
	const impact = { ...CARE, is_agreed: false };
	expect(careImpactWords(impact)).toBe(
		'applies to 3 stores on 2 seats: 1.2 TB, 300 GB unused for a month; the first run needs a signature.'
	);
	expect(careImpactWords({ ...impact, is_agreed: true })).toContain('approved');
	expect(careImpactWords({ ...impact, seats: 0 })).toBe('applies to no seat.');
});

it('a form begins as the sentence stands, and takes gaps that are empty away', () => {
	expect(careOf({}).most).toBe('500 GB');
	const form = careOf({ name: 'Bins', kinds: ['bin'], free: '1 TB' });
	expect(careGiven(form)).toMatchObject({ name: 'Bins', kinds: ['bin'], free: '1 TB', because: null });
});

it('troubles of a project stand by their kind, what stops people first, with what to do', () => {
	const kinds = troublesByKind([trouble('unused'), trouble('missing'), trouble('unused')]);
	expect(kinds.map(({ title, rows }) => [title, rows.length])).toEqual([
		['Missing', 1],
		['Used by no timeline', 2]
	]);
	expect(kinds[0]?.do).toBe('mend missing');
});

it('a project in one line says its size and what is wrong, or why it could not be read', () => {
	expect(projectWords(ROW)).toBe('20 items, 9 used; 9 GB of media, 4 GB unused; 1 missing, 2 listed twice');
	expect(projectWords({ ...ROW, size: 0, missing: 0, duplicates: 0 })).toBe('20 items, 9 used');
	expect(projectWords({ ...ROW, fault: 'damaged XML' })).toBe('damaged XML');
});
