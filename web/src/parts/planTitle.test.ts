import { expect, test } from 'vitest';
import { titleOf } from './planTitle';

test.each([
	[1, 1, 0, 'Plan: 1 change on 1 seat'],
	[31, 14, 2, 'Plan: 31 changes on 14 seats, 2 errands'],
	[0, 0, 1, 'Plan: 1 errand'],
	[0, 0, 0, 'Plan: 0 changes on 0 seats']
])('%i changes on %i seats and %i errands', (changes, seats, errands, title) => {
	expect(titleOf(changes, seats, errands)).toBe(title);
});
