import { describe, expect, test, vi } from 'vitest';
import { render } from 'vitest-browser-svelte';
import { userEvent } from 'vitest/browser';
import type { Schemas } from '../../api/client';
import { sameChanges } from '../../model/rollout/planGroups';
import { USUAL } from '../../model/rollout/terms';
import PlanOfSeat from './PlanOfSeat.svelte';
import SameChanges from './SameChanges.svelte';
import TermsForm from './TermsForm.svelte';

const CHANGE: Schemas['ChangeOut'] = {
	setting: 'memory.preview_pool',
	title: 'Preview pool',
	app: 'corrow',
	file: 'corrow/8/preferences.xml',
	at: '/settings/memory/pool',
	line: 7,
	before: '256',
	after: '13108',
	value: 13_744_734_208,
	shown_before: '256 MiB',
	shown_after: '12.8 GiB',
	close: 'corrow',
	file_name: 'preferences',
	volume: '',
	driver: null,
	template: '',
	rounder: 13_958_643_712,
	shown_rounder: '13 GiB'
};
const LEFT = { setting: 'engine.effects', app: 'corrow', why: 'several files hold it', errand: '' };
const PLAN = {
	seat: 'pan-03',
	changes: [CHANGE],
	left: [LEFT, { ...LEFT, app: 'plinthe', errand: 'Attach a disk to pan-03' }]
};

describe('a plan', () => {
	test('says each equal change once, with its seats and the rounder size', async () => {
		const plan = ['pan-03', 'pan-04', 'kiln-01'].map((seat) => ({ ...PLAN, seat }));
		const screen = await render(SameChanges, { changes: sameChanges(plan) });
		const row = screen.getByRole('row').nth(1);
		await expect.element(row).toHaveTextContent('Preview pool, Corrow');
		await expect.element(row).toHaveTextContent('12.8 GiB or 13 GiB');
		await expect.element(row).toHaveTextContent('3 seats: pan-03, pan-04, kiln-01');
	});

	test('of a seat tells bytes and values, what is left, and what must be closed', async () => {
		const screen = await render(PlanOfSeat, {
			seat: PLAN,
			closes: ['corrow'],
			restarts: true,
			inTheWay: ['Corrow is open']
		});
		for (const words of [
			'Corrow must be closed once, the machine restarts once',
			'256 MiB → 12.8 GiB; 13 GiB is within the norm too',
			'corrow/8/preferences.xml:7',
			'Not in this plan: engine.effects, Corrow: several files hold it.',
			'Errand: Attach a disk to pan-03.',
			'Corrow is open.'
		])
			await expect.element(screen.container).toHaveTextContent(words);
	});

	test('says what a change brings with it', async () => {
		const driver = { gpu: 'g0', older: null };
		const changes = [
			{ ...CHANGE, setting: 'a', volume: 'v1' },
			{ ...CHANGE, setting: 'b', template: 'f00d' },
			{ ...CHANGE, setting: 'c', driver }
		];
		const screen = await render(PlanOfSeat, { seat: { ...PLAN, changes } });
		await expect.element(screen.getByText('copied to v1 and verified first')).toBeVisible();
		await expect.element(screen.getByText('the whole file is replaced')).toBeVisible();
		await expect.element(screen.getByText('cannot be undone')).toBeVisible();
	});

	test('leaves a seat out where that is asked', async () => {
		const onleaveout = vi.fn();
		const screen = await render(PlanOfSeat, { seat: PLAN, onleaveout });
		await screen.getByRole('button', { name: 'Skip pan-03' }).click();
		expect(onleaveout).toHaveBeenCalledOnce();
	});
});

describe('how careful a rollout is', () => {
	const form = (more: Partial<Parameters<typeof render<typeof TermsForm>>[1]> = {}) => {
		const onterms = vi.fn();
		return render(TermsForm, { terms: USUAL, onterms, moving: false, workedOut: false, ...more }).then(
			(screen) => ({ screen, onterms })
		);
	};

	test('hands on what was chosen, and the rest as it was', async () => {
		const { screen, onterms } = await form();
		await screen.getByLabelText('Canaries first').click();
		expect(onterms).toHaveBeenLastCalledWith({ ...USUAL, canaries: false });
		await screen.getByRole('spinbutton', { name: 'Seats per wave seats', exact: true }).fill('12');
		await userEvent.tab(); // it is taken once it is left
		expect(onterms).toHaveBeenLastCalledWith({ ...USUAL, in_wave: 12 });
		await screen.getByLabelText('Start time each day').fill('19:30');
		expect(onterms).toHaveBeenLastCalledWith({ ...USUAL, opens: '19:30' });
	});

	test('asks of stores and of rounder sizes only where a plan has them', async () => {
		const { screen } = await form();
		expect(screen.container.textContent).not.toMatch(/old folders|Round computed/);
		const { screen: more, onterms } = await form({ moving: true, workedOut: true });
		await expect.element(more.getByLabelText('Delete the old folders')).toBeVisible();
		await more.getByLabelText('Round computed sizes').click();
		expect(onterms).toHaveBeenLastCalledWith({ ...USUAL, rounder: true });
	});

	test('measures canaries only where there are some', async () => {
		const { screen } = await form({ terms: { ...USUAL, canaries: false } });
		expect(screen.container.textContent).not.toContain('Measure canaries by');
	});
});
