import { expect, it } from 'vitest';
import { correction } from './correction.svelte';
import { Selection } from './selection.svelte';

it('holds what was chosen until it is let go', () => {
	const selection = new Selection<string>();
	selection.toggle('pan-01');
	selection.toggle('pan-02');
	selection.toggle('pan-01');
	expect([selection.all, selection.has('pan-02'), selection.size]).toEqual([['pan-02'], true, 1]);
	selection.set(['a', 'b']);
	expect(selection.all).toEqual(['a', 'b']);
	selection.clear();
	expect(selection.size).toBe(0);
});

it('plans findings in their order, and nothing for nothing', () => {
	correction.plan([]);
	expect(correction.findings).toEqual([]);
	correction.plan([9, 2, 5]);
	expect(correction.findings).toEqual([2, 5, 9]);
	correction.close();
	expect(correction.findings).toEqual([]);
});

it('a plan goes on without what is left out, on its own terms', () => {
	correction.plan([9, 2, 5], { in_wave: 3 }, { kept: { id: 4, name: 'Power', seen: 'a1' } });
	correction.leaveOut([2, 9]);
	expect([correction.findings, correction.terms.in_wave, correction.title]).toEqual([[5], 3, 'Power']);
	correction.plan([1]);
	expect([correction.terms.in_wave, correction.kept]).toEqual([undefined, undefined]);
});
