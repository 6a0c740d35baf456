import { expect, it } from 'vitest';
import { detailOf } from './detail';

it('tells what the sentence does not, in words', () => {
	expect(detailOf({ seats: ['pan-03'], order: 'x', title: 'Bring 3 settings', count: 3 })).toBe(
		'title: Bring 3 settings; count: 3'
	);
});

it('leaves out what is empty, and names what holds more by its parts', () => {
	const terms = { canaries: true, at_once: 0, halt_after: 2, opens: '', begins: null, errands: false };
	expect(detailOf({ terms, note: '', fields: [] })).toBe(
		'terms: (canaries: yes, halt after: 2, errands: no)'
	);
	expect(detailOf({ changes: [{ column: 'role', after: 'edit' }, 'x'] })).toBe(
		'changes: (column: role, after: edit), x'
	);
	expect(detailOf({})).toBe('');
});

it('rounds measured figures to three significant digits and keeps whole numbers', () => {
	expect(detailOf({ ratio: 0.9878912681977091, blocks: 12345 })).toBe('ratio: 0.988; blocks: 12345');
});
