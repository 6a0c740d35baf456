import { expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { sameChanges, seatsInShort } from './planGroups';

type Seat = Schemas['SeatPlanOut'];

const change = (app: string | null, before: string, after: string) =>
	({
		setting: 'memory.preview_pool',
		title: 'Preview pool',
		app,
		shown_before: before,
		shown_after: after
	}) as Seat['changes'][number];
const seat = (name: string, ...changes: Seat['changes']): Seat => ({ seat: name, changes, left: [] });

test('equal changes stand together, those on most seats first', () => {
	const plan = [
		seat('a', change('plinthe', '2 GiB', '16 GiB')),
		seat('b', change('corrow', '256 MiB', '12 GiB')),
		seat('c', change('corrow', '256 MiB', '12 GiB'), change('plinthe', '1 GiB', '16 GiB'))
	];
	expect(sameChanges(plan).map(({ app, before, seats }) => [app, before, seats])).toEqual([
		['corrow', '256 MiB', ['b', 'c']],
		['plinthe', '2 GiB', ['a']],
		['plinthe', '1 GiB', ['c']]
	]);
});

test('a change of the same value in another application is another change', () => {
	const plan = [seat('a', change('corrow', '1', '2'), change('plinthe', '1', '2'), change(null, '1', '2'))];
	expect(sameChanges(plan)).toHaveLength(3);
});

test('of many seats the first are named and the rest counted', () => {
	expect(seatsInShort(['a', 'b'])).toBe('a, b');
	expect(seatsInShort(['a', 'b', 'c', 'd', 'e'], 3)).toBe('a, b, c and 2 more');
});
