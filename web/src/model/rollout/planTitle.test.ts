import { expect, test } from 'vitest';
import { sizeOf, titleOf } from './planTitle';

test.each([
	[1, 1, 0, 'Plan: 1 change on 1 seat'],
	[31, 14, 2, 'Plan: 31 changes on 14 seats, 2 errands'],
	[0, 0, 1, 'Plan: 1 errand'],
	[0, 0, 0, 'Plan: 0 changes on 0 seats']
])('%i changes on %i seats and %i errands', (changes, seats, errands, title) => {
	expect(titleOf(changes, seats, errands)).toBe(title);
});

test('a plan is as large as its changes, the seats that have any, and what a person has to do', () => {
	const change = {} as never;
	const left = (errand: string) => ({ setting: 'x', app: null, why: 'so', errand });
	const plan = [
		{ seat: 'a', changes: [change, change], left: [left('Attach a disk'), left('')] },
		{ seat: 'b', changes: [], left: [left('Switch it on')] }
	];
	expect(sizeOf(plan)).toEqual({ changes: 2, seats: 1, errands: 2 });
	expect(sizeOf([])).toEqual({ changes: 0, seats: 0, errands: 0 });
});
