import { expect, test } from 'vitest';
import { userEvent } from 'vitest/browser';
import { render } from 'vitest-browser-svelte';
import type { Schemas } from '../../api/client';
import Intervals from './Intervals.svelte';
import Loads from './Loads.svelte';
import RunsPlot from './RunsPlot.svelte';
import TrialLine from './TrialLine.svelte';

const run = (id: number, condition: string, figure: number | null, harmful = false): Schemas['RunOut'] => ({
	id,
	seat: 'pan-01',
	block: Math.ceil(id / 2),
	place: id % 2,
	condition,
	figure,
	thrown: [],
	harmful,
	beside: null,
	ended_at: null,
	has_samples: true
});

const trial: Schemas['TrialRowOut'] = {
	id: 7,
	matters: 1.03,
	interval: null,
	title: 'Does Preview pool of Corrow at 8 GiB play faster on pan-01?',
	kind: 'change',
	job: 'play',
	state: 'running',
	sentence: 'Six runs so far.',
	old: '',
	seats: ['pan-01'],
	blocks: 3,
	expected: 12,
	created_by: 'supervisor',
	created_at: '2026-03-03T08:00:00Z',
	ended_at: null
};

test('every run that was made is a dot that speaks, and a choice is told', async () => {
	const chosen: number[] = [];
	const runs = [run(1, 'A', 38.1), run(2, 'B', 41.9), run(3, 'B', 42.6, true), run(4, 'A', null)];
	const screen = await render(RunsPlot, {
		names: ['A', 'B'],
		runs,
		means: { A: 38.1, B: 42.2 },
		job: 'play',
		chosen: 2,
		onchoose: (id: number) => chosen.push(id)
	});
	const dots = [...screen.container.querySelectorAll<HTMLElement>('.dot')];
	expect(dots.map((dot) => dot.title)).toEqual([
		'A, block 1: 38.1 fps',
		'B, block 1: 41.9 fps',
		'B, block 2: 42.6 fps, memory was swapped in from disk'
	]);
	const slider = screen.getByRole('slider', { name: /Run/ });
	await expect.element(slider).toHaveAttribute('aria-valuetext', 'B, block 1: 41.9 fps');
	slider.element().focus();
	await userEvent.keyboard('{ArrowRight}');
	dots[1]?.click();
	expect(chosen).toEqual([3, 0]);
	const [left, right] = [...screen.container.querySelectorAll<HTMLElement>('.mean')].map((m) =>
		parseFloat(m.style.left)
	);
	expect(left).toBeLessThan(right ?? 0);
});

test('an interval is a bar around its ratio, and one that nothing bounds runs out of the picture', async () => {
	const screen = await render(Intervals, {
		what: 'Speed compared',
		matters: 1.03,
		ratios: [
			{ name: 'B against A', ratio: 1.44, low: 1.39, high: 1.49, outcome: 'better' },
			{ name: 'C against A', ratio: 0.9, low: 0.1, high: null, outcome: 'no difference shown' },
			{ name: 'D', ratio: null, low: null, high: null, outcome: 'aliased' }
		]
	});
	await expect.element(screen.getByText('1.44 × (1.39 to 1.49)')).toBeInTheDocument();
	await expect.element(screen.getByText('0.90 × (0.10 to ∞)')).toBeInTheDocument();
	await expect.element(screen.getByText('unknown')).toBeInTheDocument();
	const [sure, open] = [...screen.container.querySelectorAll<HTMLElement>('.bar')];
	expect(sure?.classList.contains('clear')).toBe(true);
	expect(parseFloat(sure?.style.left ?? '0')).toBeGreaterThan(50);
	expect(open?.getBoundingClientRect().width).toBeGreaterThan(sure?.getBoundingClientRect().width ?? 1e9);
});

test('loads are strips of what the system tells, a gap where a figure is missing', async () => {
	const columns = { memory: [2 ** 35, 2 ** 35], processor: [0.4, null], disk_read: [1.5e8, 2e8] };
	const screen = await render(Loads, { samples: { every: 0.5, columns, rest: { processor: 0.04 } } });
	await expect.element(screen.getByText('32 GiB')).toBeInTheDocument();
	await expect.element(screen.getByText('200 MB/s')).toBeInTheDocument();
	await expect.element(screen.getByText('40 %')).toBeInTheDocument();
	const [processor, memory] = [...screen.container.querySelectorAll('path')].map((p) => p.getAttribute('d'));
	expect([processor?.match(/M/g)?.length, memory?.match(/M/g)?.length]).toEqual([1, 2]);
});

test('a trial in the list shows its progress, its interval, and whether its verdict is out of date', async () => {
	const scale = { low: -0.3, high: 0.3 };
	const screen = await render(TrialLine, { trial, scale });
	await expect.element(screen.getByRole('img', { name: '3 of about 12 blocks' })).toBeInTheDocument();
	expect(screen.container.querySelector('.point')).toBeNull();
	const interval = { name: 'B against A', ratio: 1.1, low: 1.08, high: 1.12, outcome: 'better' };
	await screen.rerender({
		scale,
		trial: { ...trial, state: 'ended', interval, old: 'Corrow is 8.4 on pan-01 now, not 8.3.1' }
	});
	await expect.element(screen.getByText(/Out of date: Corrow is 8.4/)).toBeInTheDocument();
	await expect.element(screen.getByText('B against A')).toBeInTheDocument();
	await expect.element(screen.getByTitle('1.10 × (1.08 to 1.12)')).toBeInTheDocument();
	const left = parseFloat((screen.container.querySelector('.point') as HTMLElement).style.left);
	expect(left).toBeCloseTo(50 + (50 * Math.log(1.1)) / 0.3, 3);
});
