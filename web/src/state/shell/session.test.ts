import { afterEach, expect, it, vi } from 'vitest';
import { api, Problem } from '../../api/client';
import { queryClient } from '../../api/queries';
import { session } from './session.svelte';

const SAL = { name: 'sal', role: 'supervisor', seat: null, may: ['correct'] };
const NOBODY = { name: null, role: null, seat: null, may: [] };

function says(who: unknown): void {
	vi.spyOn(api, 'GET').mockResolvedValue({ data: who } as never);
}
function isAway(): void {
	vi.spyOn(api, 'GET').mockRejectedValue(new Problem(0, 'No answer', 'it cannot be reached', []));
}

afterEach(() => {
	vi.restoreAllMocks();
});

it('knows who is signed in, and what they may', async () => {
	says(SAL);
	await session.load();
	expect([session.known, session.name, session.may('correct'), session.may('publish')]).toEqual([
		true,
		'sal',
		true,
		false
	]);
});

it('lets go of everything once somebody was signed out elsewhere', async () => {
	const forgotten = vi.spyOn(queryClient, 'clear');
	says(SAL);
	await session.look();
	expect(forgotten).not.toHaveBeenCalled();
	says(NOBODY);
	await session.look();
	expect(forgotten).toHaveBeenCalledOnce();
	expect([session.name, session.may('correct')]).toEqual([null, false]);
});

it('stays who it is while the server is away', async () => {
	says(SAL);
	await session.load();
	isAway();
	await session.look();
	expect([session.name, session.failed]).toEqual(['sal', '']);
	await session.load();
	expect([session.name, session.failed]).toEqual(['sal', 'it cannot be reached']);
});

it('forgets what was read with signing out', async () => {
	const forgotten = vi.spyOn(queryClient, 'clear');
	vi.spyOn(api, 'DELETE').mockResolvedValue({} as never);
	says(NOBODY);
	await session.signOut();
	expect([forgotten.mock.calls.length, session.name]).toEqual([1, null]);
});
