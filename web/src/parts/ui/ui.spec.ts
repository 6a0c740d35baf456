import { createRawSnippet } from 'svelte';
import { expect, test, vi } from 'vitest';
import { render } from 'vitest-browser-svelte';
import { userEvent } from 'vitest/browser';
import { Acts } from '../../state/acts.svelte';
import Bar from './Bar.svelte';
import Refused from './Refused.svelte';
import Sheet from './Sheet.svelte';

const children = createRawSnippet(() => ({ render: () => '<button id="inside">Inside</button>' }));

test('a sheet has the focus, keeps it, and closes at Escape', async () => {
	const onclose = vi.fn();
	const screen = await render(Sheet, { title: 'Plan', onclose, children });
	const dialog = screen.getByRole('dialog', { name: 'Plan' });
	await expect.element(dialog).toBeVisible();
	await vi.waitFor(() => expect(dialog.element().contains(document.activeElement)).toBe(true));
	for (let times = 0; times < 4; times++) {
		await userEvent.tab();
		expect(dialog.element().contains(document.activeElement)).toBe(true);
	}
	await userEvent.keyboard('{Escape}');
	await vi.waitFor(() => expect(onclose).toHaveBeenCalledOnce());
});

test('the bar of a selection offers what may be done with it', async () => {
	const [oncorrect, onclear] = [vi.fn(), vi.fn()];
	const screen = await render(Bar, { says: '3 readings', can: false, oncorrect, onclear });
	await expect.element(screen.getByRole('button', { name: 'Correct' })).toBeDisabled();
	expect(screen.getByRole('button', { name: 'Waive' }).query()).toBeNull();
	await screen.getByRole('button', { name: 'Clear selection' }).click();
	expect([oncorrect.mock.calls.length, onclear.mock.calls.length]).toEqual([0, 1]);
});

test('what is refused is said, and gone with the next act', async () => {
	const acts = new Acts();
	const screen = await render(Refused, { acts });
	await acts.do(() => Promise.reject(new Error('the plan changed')));
	await expect.element(screen.getByRole('alert')).toHaveTextContent('the plan changed');
	await acts.do(() => Promise.resolve());
	await expect.element(screen.getByRole('alert')).not.toBeInTheDocument();
});
