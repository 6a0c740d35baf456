import { describe, expect, it } from 'vitest';
import { gaugeOf, NOTCHES } from './gauge';

describe('a level', () => {
	it('gives every state a shape of its own', () => {
		const shapes = [
			gaugeOf('in-norm', null),
			gaugeOf('off-norm', -2),
			gaugeOf('off-norm', null),
			gaugeOf('waived', 1),
			gaugeOf('unread', null),
			gaugeOf('no-norm', null)
		].map(({ line, mark }) => `${line} ${mark}`);
		expect(new Set(shapes).size).toBe(shapes.length);
	});

	it('stands further out the larger the distance, more to the right', () => {
		const places = [-9, -6, -2, -0.1, 0, 0.1, 2, 6, 9].map((distance) => gaugeOf('off-norm', distance).place);
		expect(places).toEqual([...places].sort((a, b) => a - b));
		expect(gaugeOf('off-norm', null).place).toBe(50);
	});

	it('never touches the norm while it is off norm', () => {
		expect(gaugeOf('off-norm', -0.01).place).toBeLessThan(NOTCHES[0]);
		expect(gaugeOf('off-norm', 0.01).place).toBeGreaterThan(NOTCHES[1]);
	});

	it('draws a bar from the edge of the norm to the mark, on its side', () => {
		const [less, more] = [gaugeOf('off-norm', -2), gaugeOf('off-norm', 2)];
		expect(less.bar).toEqual([less.place, NOTCHES[0]]);
		expect(more.bar).toEqual([NOTCHES[1], more.place]);
		expect(gaugeOf('waived', 2).bar).toBeUndefined();
	});

	it('caps what is too far', () => {
		expect([-6.1, 6, null].map((distance) => gaugeOf('off-norm', distance).tick === undefined)).toEqual([
			false,
			true,
			true
		]);
		const far = gaugeOf('off-norm', -60);
		expect(far.place).toBe(gaugeOf('off-norm', -6).place);
		expect(far.tick).toBeLessThan(far.place);
	});
});
