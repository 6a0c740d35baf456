import { beforeEach, describe, expect, test } from 'vitest';
import { userEvent } from 'vitest/browser';
import { server, visit, withServer } from '../../tests/server';

withServer();

const NONE = { items: [], total: 0 };

beforeEach(() => {
	server.on('get', '/api/v1/ledger', NONE);
	server.on('get', '/api/v1/ledger/names', { actors: [], actions: [] });
	server.refuse('get', '/api/v1/ledger/head', 404, 'no signature yet');
	server.on('get', '/api/v1/floor', { ...NONE, seen: '' });
	for (const path of ['dialects', 'trials', 'timelines', 'projects', 'people'] as const)
		server.on('get', `/api/v1/${path}`, NONE as never);
	server.on('get', '/api/v1/errands', { stops: [], ended: [] } as never);
	server.refuse('get', '/api/v1/standard', 404, 'no edition yet');
	server.on('get', '/api/v1/standard/words', {
		settings: [{ key: 'memory.held_back', title: 'Memory reserve', values: [], scope: 'app' }]
	} as never);
	server.on('get', '/api/v1/rollouts', {
		items: [{ id: 7, title: 'Bring 3 settings to the house standard', state: 'running' }],
		total: 1
	} as never);
});

describe('Find', () => {
	test('opens a rollout by words of its title', async () => {
		server.refuse('get', '/api/v1/rollouts/{number}', 404, 'not part of this test');
		const screen = await visit('/ledger', 'administrator');
		await screen.getByRole('button', { name: 'Find' }).click();
		await screen.getByRole('textbox', { name: 'Find' }).fill('bring standard');
		await expect.element(screen.getByRole('button', { name: /rollout 7, running/ })).toBeVisible();
		await userEvent.keyboard('{Enter}');
		await expect.poll(() => location.pathname).toBe('/rollouts/7');
	});

	test('opens a setting on every seat', async () => {
		server.refuse('get', '/api/v1/drift', 404, 'not part of this test');
		const screen = await visit('/ledger');
		await screen.getByRole('button', { name: 'Find' }).click();
		await screen.getByRole('textbox', { name: 'Find' }).fill('reserve');
		await screen.getByRole('button', { name: /Memory reserve/ }).click();
		await expect.poll(() => location.pathname + location.search).toBe('/drift?setting=memory.held_back');
	});

	test('says when nothing matches', async () => {
		const screen = await visit('/ledger');
		await screen.getByRole('button', { name: 'Find' }).click();
		await screen.getByRole('textbox', { name: 'Find' }).fill('qqq');
		await expect.element(screen.getByText('No matches.')).toBeVisible();
	});

	test('reads the accounts only for people who manage them', async () => {
		const screen = await visit('/ledger', 'viewer');
		await screen.getByRole('button', { name: 'Find' }).click();
		await screen.getByRole('textbox', { name: 'Find' }).fill('bring');
		await expect.element(screen.getByRole('button', { name: /rollout 7/ })).toBeVisible();
		expect(server.asked('get', '/api/v1/people')).toEqual([]);
	});
});
