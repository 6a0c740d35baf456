import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { api, Problem, type Schemas } from '../api/client';
import { queryClient } from '../api/queries';
import { Account } from './shell/account.svelte';
import { People } from './people.svelte';

let anew: unknown[];

beforeEach(() => {
	anew = [];
	vi.spyOn(queryClient, 'invalidateQueries').mockImplementation((filter) => {
		anew.push(filter?.queryKey);
		return Promise.resolve();
	});
});
afterEach(() => {
	vi.restoreAllMocks();
});

function answers(method: 'POST' | 'PUT' | 'PATCH' | 'DELETE', data: unknown) {
	return vi.spyOn(api, method).mockResolvedValue({ data } as never);
}

function refuses(method: 'POST' | 'PUT' | 'PATCH' | 'DELETE', words: string) {
	return vi.spyOn(api, method).mockRejectedValue(new Problem(409, 'No', words, []));
}

describe('what an administrator does', () => {
	const kim = { name: 'kim', role: 'viewer', seat: '', seen: 'a1' } as Schemas['PersonOut'];

	it('adds somebody, and shows their link once', async () => {
		const asked = answers('POST', { name: 'kim', link: 'kim:x', valid_hours: 24 });
		const people = new People();
		expect(await people.add('kim', 'viewer', '')).toBe(true);
		expect(asked.mock.calls[0]).toEqual([
			'/api/v1/people',
			{ body: { name: 'kim', role: 'viewer', seat: '' } }
		]);
		expect([people.link?.link, anew]).toEqual(['kim:x', [['people']]]);
	});

	it('changes what was read, and nothing else', async () => {
		const asked = answers('PATCH', {});
		await new People().change(kim, 'editor', 'pan-03');
		expect(asked.mock.calls[0]?.[1]).toMatchObject({
			params: { path: { name: 'kim' } },
			body: { role: 'editor', seat: 'pan-03', seen: 'a1' }
		});
	});

	it('says why something was refused, reads anew, and forgets it with the next act', async () => {
		refuses('POST', 'the last administrator stays');
		const people = new People();
		expect(await people.act(kim, 'disable')).toBe(false);
		expect([people.refused, people.busy, anew]).toEqual([
			'the last administrator stays',
			false,
			[['people']]
		]);
		answers('POST', {});
		expect(await people.act(kim, 'end-sessions')).toBe(true);
		expect(people.refused).toBe('');
	});

	it('is busy while the server thinks', async () => {
		let answer: (told: unknown) => void = () => undefined;
		vi.spyOn(api, 'POST').mockReturnValue(new Promise((resolve) => (answer = resolve)) as never);
		const people = new People();
		const asked = people.offerLink(kim);
		expect(people.busy).toBe(true);
		answer({ data: { name: 'kim', link: 'kim:y', valid_hours: 24 } });
		await asked;
		expect([people.busy, people.link?.link]).toEqual([false, 'kim:y']);
	});
});

describe("one's own account", () => {
	it('holds a token until it is withdrawn', async () => {
		answers('POST', { id: 4, name: 'night', token: 'nrm_x' });
		answers('DELETE', undefined);
		const account = new Account();
		await account.makeToken('night', 'read', 90);
		expect(account.token?.token).toBe('nrm_x');
		await account.withdraw(4);
		expect([account.token, anew]).toEqual([undefined, [['account'], ['account']]]);
	});

	it('says that a password was changed only where it was', async () => {
		const account = new Account();
		answers('PUT', undefined);
		expect([await account.changePassword('a', 'b'), account.said]).toEqual([true, 'Changed.']);
		refuses('PUT', 'the present password is another one');
		expect([await account.changePassword('x', 'b'), account.said]).toEqual([false, '']);
		expect(account.refused).toBe('the present password is another one');
	});
});
