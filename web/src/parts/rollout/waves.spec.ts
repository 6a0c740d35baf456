import { createRawSnippet } from 'svelte';
import { describe, expect, test } from 'vitest';
import { render } from 'vitest-browser-svelte';
import type { Schemas } from '../../api/client';
import ReportLinks from './ReportLinks.svelte';
import WaveOfBeads from './WaveOfBeads.svelte';

type Leg = Schemas['LegOut'];
const STEPS = ['waiting', 'closed', 'written', 'settled'];

const legs = (count: number, state: Leg['state'], step: string): Leg[] =>
	Array.from({ length: count }, (_, number) => ({
		seat: `${state}-${number}`,
		room: '',
		wave: 1,
		state,
		step,
		message: '',
		moved_at: '',
		ended_at: null,
		can_put_back: false,
		can_retry: false,
		troubled: state === 'stopped',
		objection: '',
		asks_waiver: false,
		put_off: 0
	}));

const track = createRawSnippet<[Leg]>((leg) => ({ render: () => `<li class="seat">${leg().seat}</li>` }));

describe('a wave', () => {
	const wave = (of: Leg[]) => render(WaveOfBeads, { wave: 1, legs: of, steps: STEPS, headed: true, track });

	test('of few seats has a track each and no piles', async () => {
		const { container } = await wave(legs(3, 'settled', 'settled'));
		expect([container.querySelectorAll('.seat').length, container.querySelectorAll('.pile').length]).toEqual([
			3, 0
		]);
	});

	test('of many seats has piles, and a track for each in trouble', async () => {
		const screen = await wave([
			...legs(20, 'settled', 'settled'),
			...legs(4, 'moving', 'written'),
			...legs(2, 'stopped', 'written')
		]);
		const { container } = screen;
		expect(screen.getByRole('img').element().getAttribute('aria-label')).toBe(
			'Wave 1: 20 settled, 4 running, 2 stopped'
		);
		expect([...container.querySelectorAll('.seat')].map((seat) => seat.textContent)).toEqual([
			'stopped-0',
			'stopped-1'
		]);
		await screen.getByRole('button', { name: 'All 26 seats' }).click();
		expect(container.querySelectorAll('.seat')).toHaveLength(26);
	});

	test('lets a pile in trouble cover no other at its step', async () => {
		const { container } = await wave([
			...legs(20, 'moving', 'written'),
			...legs(3, 'stopped', 'written'),
			...legs(1, 'halted', 'waiting')
		]);
		const box = (state: string) => container.querySelector(`.pile.${state}`)?.getBoundingClientRect();
		const [moving, stopped] = [box('moving'), box('stopped')];
		expect(moving?.bottom).toBeLessThanOrEqual(stopped?.top ?? 0);
		const [here, there] = [moving, stopped].map((pile) => (pile?.left ?? 0) + (pile?.width ?? 0) / 2);
		expect(here).toBeCloseTo(there ?? 0, 0);
	});
});

test('the report comes as pages to look at and as data to keep', async () => {
	const screen = await render(ReportLinks, { rollout: 7, digest: '0123456789abcdef' });
	const links = screen
		.getByRole('link')
		.all()
		.map((link) => link.element() as HTMLAnchorElement);
	expect(links.map((link) => [link.textContent, link.target, link.hasAttribute('download')])).toEqual([
		['HTML', '_blank', false],
		['PDF', '_blank', false],
		['CSV', '', true],
		['JSON', '', true]
	]);
	await expect.element(screen.getByTitle('0123456789abcdef')).toHaveTextContent('01234567');
});
