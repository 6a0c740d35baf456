import { describe, expect, it } from 'vitest';
import { edgeOf, isCapped, markOf, placeOf, tickOf } from './gauge';

describe('a level', () => {
	it('gives every state a shape of its own', () => {
		const shapes = [
			markOf('in-norm', null),
			markOf('off-norm', -2),
			markOf('off-norm', null),
			markOf('waived', 1),
			markOf('unread', null)
		];
		expect(new Set(shapes).size).toBe(shapes.length);
	});

	it('stands further out the larger the distance, more to the right', () => {
		const places = [-9, -6, -2, -0.1, 0, 0.1, 2, 6, 9].map(placeOf);
		expect(places).toEqual([...places].sort((a, b) => a - b));
		expect(placeOf(null)).toBe(50);
	});

	it('never touches the norm while it is off norm', () => {
		expect(placeOf(-0.01)).toBeLessThan(edgeOf(-1));
		expect(placeOf(0.01)).toBeGreaterThan(edgeOf(1));
	});

	it('caps what is too far', () => {
		expect([isCapped(-6.1), isCapped(6), isCapped(null)]).toEqual([true, false, false]);
		expect(placeOf(60)).toBe(placeOf(6));
		expect(tickOf(-60)).toBeLessThan(placeOf(-60));
	});
});
