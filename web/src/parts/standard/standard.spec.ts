import { describe, expect, test, vi } from 'vitest';
import { render } from 'vitest-browser-svelte';
import type { Schemas } from '../../api/client';
import OnSeat from './OnSeat.svelte';
import RuleLine from './RuleLine.svelte';
import Shares from './Shares.svelte';

const RULE = {
	setting: 'memory.held_back',
	app: null,
	sentence: 'Held back is at least 20 % of the memory',
	severity: 'must',
	because: 'the system pages otherwise',
	evidence: 'measured',
	rests_on: 'trial 4',
	locked: true,
	line: 12,
	at: [0, 3],
	fields: {}
} as Schemas['RuleOut'];
const OUTCOME: Schemas['OnSeatOut'] = {
	layer: 0,
	rule: 3,
	app: 'corrow',
	how: 'made',
	wants: 'at least 6.4 GiB',
	reading: '1.5 GiB',
	met: false
};

describe('a rule', () => {
	const line = async (more: object = {}) => {
		const onopen = vi.fn();
		const props = {
			rule: RULE,
			against: [],
			outcomes: undefined,
			open: false,
			onopen,
			onsave: vi.fn(),
			onremove: vi.fn()
		};
		return { screen: await render(RuleLine, { ...props, ...more }), onopen };
	};

	test('is a sentence with what it rests on, and opens at a press', async () => {
		const { screen, onopen } = await line();
		await expect.element(screen.container).toHaveTextContent('critical, locked, measured, line 12');
		await expect.element(screen.container).toHaveTextContent('Source: trial 4');
		await screen.getByRole('button', { name: RULE.sentence }).click();
		expect(onopen).toHaveBeenCalledOnce();
	});

	test('cannot be opened by whoever may not change it', async () => {
		const { screen } = await line({ onopen: undefined, open: true });
		expect(screen.getByRole('button').all()).toHaveLength(0);
		await expect.element(screen.container).toHaveTextContent(RULE.sentence);
	});

	test('says what contradicts it', async () => {
		const { screen } = await line({
			against: [{ at: [0, 3], seats: ['pan-03'], sentence: 'pan-03 plays well without it' }]
		});
		await expect.element(screen.getByText('pan-03 plays well without it')).toBeVisible();
	});

	test.each<[string, Partial<Schemas['OnSeatOut']>, string]>([
		['off norm', {}, 'Corrow 1.5 GiB, requires at least 6.4 GiB'],
		['in norm', { met: true }, 'Corrow 1.5 GiB, in norm'],
		['unknown', { met: null }, 'Corrow 1.5 GiB, cannot be checked'],
		['overridden', { how: 'lost' }, 'overridden: Corrow 1.5 GiB'],
		['silent', { how: 'silent' }, 'does not apply'],
		['long', { wants: 'x'.repeat(80) }, 'requires as in the rule'],
		['of the machine', { app: null, met: true }, '1.5 GiB, in norm']
	])('beside a seat where it is %s', async (_, more, words) => {
		const screen = await render(OnSeat, { outcomes: [{ ...OUTCOME, ...more }] });
		await expect.element(screen.container).toHaveTextContent(words);
	});
});

test('what a draft does falls to rooms; nothing is left blank', async () => {
	const shares = [
		{ name: 'Pan House', opens: 3, closes: 0, changes: 1, unread: 0 },
		{ name: '', opens: 0, closes: 2, changes: 0, unread: 0 }
	];
	const screen = await render(Shares, { title: 'By room', shares });
	const cells = screen.getByRole('row').nth(1).getByRole('cell').all();
	expect(cells.map((cell) => cell.element().textContent)).toEqual(['Pan House', '3', '', '1']);
	await expect.element(screen.getByRole('row').nth(2)).toHaveTextContent('none');
});
