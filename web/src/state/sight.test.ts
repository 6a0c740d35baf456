import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Schemas } from '../api/client';
import { Frames, LevelsInSight, Paced } from './sight.svelte';

type Levels = Schemas['SeatOut']['levels'];
const levels = (memory: number) => ({ memory }) as unknown as Levels;
let frames: (() => void)[];

/** The browser draws its next frame. */
function frame(): void {
	frames.splice(0).forEach((draw) => draw());
}

beforeEach(() => {
	vi.useFakeTimers();
	frames = [];
	vi.stubGlobal('requestAnimationFrame', (draw: () => void) => frames.push(draw));
	vi.stubGlobal('cancelAnimationFrame', () => frames.splice(0));
	vi.stubGlobal('document', { body: { getBoundingClientRect: () => vi.advanceTimersByTime(3) } });
});
afterEach(() => {
	vi.useRealTimers();
	vi.unstubAllGlobals();
});

describe('drawing with frames', () => {
	it('spends some milliseconds of each and goes on with the next', () => {
		const drawn: number[] = [];
		const work = new Frames();
		for (let job = 0; job < 5; job++) work.add(job, () => drawn.push(job));
		expect(drawn).toEqual([]);
		frame();
		expect(drawn).toEqual([0, 1]);
		frame();
		frame();
		expect(drawn).toEqual([0, 1, 2, 3, 4]);
		expect(frames).toHaveLength(0);
	});

	it('does the newest of a key alone, and nothing that was dropped', () => {
		const drawn: string[] = [];
		const work = new Frames();
		work.add('a', () => drawn.push('old'));
		work.add('a', () => drawn.push('new'));
		work.add('b', () => drawn.push('b'));
		work.drop('b');
		frame();
		expect(drawn).toEqual(['new']);
		work.add('c', () => drawn.push('c'));
		work.stop();
		frame();
		expect(drawn).toEqual(['new']);
	});
});

describe('levels as they come in', () => {
	it('are told to who draws the seat, and only where they changed', () => {
		const told: Levels[] = [];
		const sight = new LevelsInSight(new Frames());
		const stop = sight.watch('pan-03', (value) => told.push(value));
		sight.take([{ name: 'pan-03', levels: levels(1) }]);
		frame();
		sight.take([{ name: 'pan-03', levels: levels(1) }]);
		expect([told, frames.length]).toEqual([[levels(1)], 0]);
		stop();
		sight.take([{ name: 'pan-03', levels: levels(2) }]);
		frame();
		expect(told).toHaveLength(1);
		sight.watch('pan-03', (value) => told.push(value));
		expect(told).toEqual([levels(1), levels(2)]);
	});
});

describe('a value that changes with every frame', () => {
	it('is passed on at once, and then at a pace, the newest alone', () => {
		const paced = new Paced(0);
		vi.advanceTimersByTime(1000);
		paced.tell(1);
		vi.advanceTimersByTime(1);
		expect(paced.value).toBe(1);
		for (const value of [2, 3, 4]) paced.tell(value);
		vi.advanceTimersByTime(100);
		expect(paced.value).toBe(1);
		vi.advanceTimersByTime(100);
		expect(paced.value).toBe(4);
		paced.tell(5);
		paced.stop();
		vi.advanceTimersByTime(1000);
		expect(paced.value).toBe(4);
	});
});
