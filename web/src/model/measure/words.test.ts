import { describe, expect, it } from 'vitest';
import { columnOf, figureOf, gradesOf, inOrder, ratioOf } from './words';

describe('words of measuring', () => {
	it('give a figure the unit of its job', () => {
		expect(figureOf('play', 38.14)).toBe('38.1 fps');
		expect(figureOf('decode', 940.4)).toBe('940 fps');
		expect(figureOf('render', 152.5)).toBe('153 s');
		expect(figureOf('disk', 520_000_000)).toBe('520 MB/s');
	});

	it('say a ratio with what bounds it', () => {
		expect(ratioOf(1.444, 1.39, 1.49)).toBe('1.44 × (1.39 to 1.49)');
		expect(ratioOf(1, 0, null)).toBe('1.00 × (0.00 to ∞)');
		expect(ratioOf(null, null, null)).toBe('unknown');
	});

	it('name columns of samples, in the order in which they are looked at', () => {
		expect(columnOf('gpu:gpu0')).toEqual({ title: 'gpu0', share: true });
		expect(columnOf('gpu_memory:gpu1').title).toBe('gpu1 memory');
		expect(columnOf('unheard').title).toBe('unheard');
		const columns = inOrder({ unheard: 1, memory: 2, 'gpu:gpu1': 3, 'gpu:gpu0': 4, processor: 5 });
		expect(columns.map(([name]) => name)).toEqual(['processor', 'gpu:gpu0', 'gpu:gpu1', 'memory', 'unheard']);
	});

	it('count rules that trials speak of', () => {
		expect(gradesOf([])).toBe('');
		const grades = ['measured', 'measured', 'contradicted'].map((grade) => ({ grade }));
		expect(gradesOf(grades)).toBe(' Measured by trials: 2. Contradicted: 1.');
	});
});
