import { expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { byRoom } from './errands';

const errand = (id: number, seat: string) => ({ id, seat }) as Schemas['ErrandOut'];

test('one walks through a room once, with every errand at each of its seats', () => {
	const found = byRoom([
		{ room: 'Pan House', seat: 'pan-01', errands: [errand(3, 'pan-01')] },
		{ room: 'Pan House', seat: 'pan-04', errands: [errand(1, 'pan-04'), errand(2, 'pan-04')] },
		{ room: 'Kiln', seat: 'kiln-01', errands: [errand(9, 'kiln-01')] }
	]);
	expect(found.map((room) => [room.name, room.errands.map((one) => one.id)])).toEqual([
		['Pan House', [3, 1, 2]],
		['Kiln', [9]]
	]);
});
