import { describe, expect, test, vi } from 'vitest';
import { render } from 'vitest-browser-svelte';
import type { Schemas } from '../../api/client';
import RoundItem from './RoundItem.svelte';

const FINDING: Schemas['LineOut'] = {
	id: 1,
	seat: 'pan-03',
	setting: 'memory.held_back',
	title: 'Held back',
	app: 'corrow',
	reading: '1.5 GiB',
	norm: 'at least 6.4 GiB',
	fix: '6.4 GiB',
	distance: -2,
	remote: true,
	tried: null
};
const SPOKEN = { setting: FINDING.setting, title: FINDING.title, app: FINDING.app, remote: true };
const ITEM: Schemas['RoundItemOut'] = {
	kind: 'cause',
	trial: null,
	volume: null,
	clearing: null,
	production: null,
	title: 'Held back is too small on three seats',
	words: 'Held back is 1.5 GiB, house wants at least 6.4 GiB.',
	seats: ['pan-03', 'pan-04', 'pan-05'],
	seat_count: 3,
	status: 'off-norm',
	severity: 'must',
	distance: -2,
	because: 'the system pages otherwise',
	findings: [FINDING],
	count: 3,
	settings: [SPOKEN],
	rollout: null,
	waiver: null,
	since: null
};

describe('a thing of the Round', () => {
	const shown = async (item: Partial<typeof ITEM> = {}, more: object = {}) => {
		const calls = { onopen: vi.fn(), onpoint: vi.fn(), oncorrect: vi.fn(), onwaive: vi.fn() };
		const props = { item: { ...ITEM, ...item }, open: false, correcting: true, ...calls, ...more };
		return { screen: await render(RoundItem, props), ...calls };
	};
	const names = (screen: Awaited<ReturnType<typeof shown>>['screen']) =>
		[...screen.getByRole('button').all(), ...screen.getByRole('link').all()].map((act) =>
			act.element().textContent?.trim()
		);

	test('that orders can settle is corrected or waived', async () => {
		const { screen, oncorrect } = await shown();
		expect(names(screen)).toEqual([ITEM.title, 'Correct', 'Waive']);
		await screen.getByRole('button', { name: 'Correct' }).click();
		expect(oncorrect).toHaveBeenCalledOnce();
	});

	test('that needs hands becomes an errand, and says so', async () => {
		const { screen } = await shown({ settings: [{ ...SPOKEN, remote: false }] });
		expect(names(screen)).toContain('Create errand');
		await expect.element(screen.getByText('Needs a person at the seat')).toBeVisible();
	});

	test('leads on to its rollout, its waiver or its seat', async () => {
		const none = { findings: [], count: 0, settings: [] };
		expect(names((await shown({ ...none, rollout: 4 })).screen)).toContain('Open rollout');
		expect(names((await shown({ ...none, waiver: 2 })).screen)).toContain('Open waiver');
		expect(names((await shown({ ...none, seats: ['pan-03'], seat_count: 1 })).screen)).toContain('Open seat');
	});

	test('offers nothing to whoever only looks', async () => {
		const { screen } = await shown({}, { correcting: false, onwaive: undefined });
		expect(names(screen)).toEqual([ITEM.title]);
	});

	test('points at its seats by pointer and by focus', async () => {
		const { screen, onpoint } = await shown();
		await screen.getByRole('listitem').hover();
		expect(onpoint).toHaveBeenLastCalledWith(true);
		(screen.getByRole('button', { name: 'Waive' }).element() as HTMLElement).focus();
		expect(onpoint).toHaveBeenLastCalledWith(true);
	});

	test('opened tells why, its first findings, and how many there are', async () => {
		const { screen } = await shown({}, { open: true });
		await expect.element(screen.getByText('the system pages otherwise')).toBeVisible();
		await expect
			.element(screen.getByRole('row').nth(1))
			.toHaveTextContent('pan-03Held back, Corrow1.5 GiBat least 6.4 GiB6.4 GiB');
		await expect.element(screen.getByText('The first 1 of 3')).toBeVisible();
	});
});
