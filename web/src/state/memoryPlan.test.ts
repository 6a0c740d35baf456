import { describe, expect, it } from 'vitest';
import { MemoryPlan } from './memoryPlan.svelte';

describe('a plan of memory', () => {
	it('asks only for what was said, nought included', () => {
		const plan = new MemoryPlan();
		expect(plan.query).toEqual({ frame: '3840x2160', bits: 16, rate: '25' });
		plan.workers = 0;
		plan.heldBack = 2 ** 32;
		expect(plan.query).toMatchObject({ workers: 0, held_back: 2 ** 32 });
		expect(plan.query).not.toHaveProperty('app');
	});

	it('forgets a machine with its shares, and keeps the frames', () => {
		const plan = new MemoryPlan();
		plan.app = 'corrow';
		plan.frame = '1920x1080';
		plan.foreground = 1;
		plan.reset();
		expect(plan.query).toEqual({ frame: '1920x1080', bits: 16, rate: '25' });
	});
});
