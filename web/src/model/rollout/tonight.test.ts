import { expect, test } from 'vitest';
import { tonight } from './tonight';

const local = (hour: number, day = 5): Date => new Date(2026, 2, day, hour);

test.each([
	['by day it begins in the evening', local(14), local(20), local(6, 6)],
	['in the evening it begins at once', local(22), local(22), local(6, 6)],
	['in the small hours it is still that night', local(3), local(3), local(6)],
	['with less than two hours of it left the next one is taken', local(4), local(20), local(6, 6)]
])('%s', (_, now, begins, ends) => {
	expect(tonight(now)).toEqual({ begins: begins.toISOString(), ends: ends.toISOString() });
});
