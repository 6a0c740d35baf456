import { beforeEach, describe, expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { buttonsOf, server, visit, withServer, type Role } from '../../tests/server';

withServer();

const WRONG: Schemas['ProjectTroubleOut'] = {
	trouble: 'missing',
	items: 1,
	paths: ['/brine/media/gone.mov'],
	size: 0,
	why: 'there is no such file',
	do: 'bring it back or replace it'
};
const PROJECT: Schemas['ProjectOut'] = {
	id: 4,
	file: 'reel_three.corrow',
	app: 'corrow',
	version: '8.3.1',
	production: 'the salt ledger',
	seat: 'pan-03',
	brought_by: '',
	seen_at: '2026-11-30T09:00:00Z',
	sent_at: null,
	items: 24,
	used: 19,
	missing: 1,
	duplicates: 2,
	size: 2_100_000,
	unused: 300_000,
	troubles: 6,
	by_hand: 1,
	fault: '',
	reading: false,
	list: [WRONG, { ...WRONG, trouble: 'duplicate', paths: ['/a.mov', '/b.mov'], size: 1_000_000 }],
	more: 12
};

async function project(more: Partial<typeof PROJECT> = {}, role: Role = 'supervisor') {
	server.on('get', '/api/v1/projects/{number}', { ...PROJECT, ...more });
	const screen = await visit('/stores/projects/4', role);
	await expect.element(screen.getByRole('heading', { name: 'reel_three.corrow' })).toBeVisible();
	return screen;
}
const acts = (screen: Awaited<ReturnType<typeof visit>>) => buttonsOf(screen.getByRole('main'));

describe('a project', () => {
	test('tells what is wrong by kind, with each path, and how much more there is', async () => {
		const screen = await project();
		const main = screen.getByRole('main');
		await expect.element(main).toHaveTextContent('/a.mov, /b.mov');
		await expect.element(main).toHaveTextContent('there is no such file');
		await expect.element(main).toHaveTextContent('12 more are not listed.');
	});

	test('shows its problems as shares of its items and bytes', async () => {
		const screen = await project();
		const bars = screen.container.querySelectorAll<HTMLElement>('.track span');
		expect([...bars].map((bar) => Math.round(parseFloat(bar.style.width)))).toEqual([79, 4, 8, 14]);
		await expect.element(screen.getByRole('main')).toHaveTextContent('Missing 1 of 24');
	});

	test('that a worker has still to read says so', async () => {
		const screen = await project({ seat: null, brought_by: 'sal', reading: true, items: 0, list: [] });
		await expect.element(screen.getByText('The server is reading this project…')).toBeVisible();
	});

	test.each<[string, Partial<typeof PROJECT>, Role, string[]]>([
		[
			'at its seat',
			{},
			'supervisor',
			['Send list to pan-03', 'Create errand for missing or misplaced media', 'Delete project']
		],
		[
			'whose list was sent',
			{ sent_at: PROJECT.seen_at, by_hand: 0 },
			'supervisor',
			['Withdraw list from pan-03', 'Delete project']
		],
		['that was brought', { seat: null, brought_by: 'sal' }, 'supervisor', ['Delete project']],
		['that is clean', { troubles: 0, by_hand: 0, list: [], more: 0 }, 'supervisor', ['Delete project']],
		['for a viewer', {}, 'viewer', []]
	])('%s offers what would do something', async (_, more, role, expected) => {
		expect(acts(await project(more, role))).toEqual(expected);
	});

	test('becomes an errand, and leads there', async () => {
		server.on('post', '/api/v1/projects/{number}/errand', { id: 9 } as never);
		server.on('get', '/api/v1/errands/{number}', { does: 'Bring media', steps: [], bring: [] } as never);
		server.on('get', '/api/v1/errands', { sentence: '', stops: [], ended: [] });
		server.on('get', '/api/v1/seats/{name}', { facts: null, stores: [] } as never);
		const screen = await project();
		await screen.getByRole('button', { name: /^Create errand/ }).click();
		await expect.poll(() => location.pathname).toBe('/errands/9');
	});

	test('that is forgotten is not asked for again', async () => {
		server.on('delete', '/api/v1/projects/{number}', null as never);
		server.on('get', '/api/v1/projects', { items: [], total: 0 });
		server.on('get', '/api/v1/projects/nightly', { items: [], total: 0 });
		server.on('get', '/api/v1/productions', { items: [], total: 0 });
		server.on('get', '/api/v1/floor', { items: [], total: 0, seen: '' });
		server.on('get', '/api/v1/dialects', { items: [], total: 0 } as never);
		const screen = await project();
		const before = server.asked('get', '/api/v1/projects/{number}').length;
		await screen.getByRole('button', { name: 'Delete project' }).click();
		await expect
			.element(screen.getByText('No projects yet. Scan the projects on a seat, or upload one.'))
			.toBeVisible();
		server.tell('project', '4');
		await expect.poll(() => server.asked('get', '/api/v1/projects').length).toBeGreaterThan(1);
		expect(server.asked('get', '/api/v1/projects/{number}')).toHaveLength(before);
	});
});

describe('projects', () => {
	const nightly = {
		id: 2,
		production: 'nine lamps',
		storage: '',
		made_by: 'sal',
		made_at: '',
		asked_on: null
	};
	beforeEach(() => {
		server.on('get', '/api/v1/projects', { items: [PROJECT], total: 1 });
		server.on('get', '/api/v1/projects/nightly', { items: [nightly], total: 1 });
		server.on('get', '/api/v1/floor', {
			items: [
				{
					name: 'Pan House',
					seats: [
						{ name: 'pan-03', presence: 'here' } as never,
						{ name: 'new-01', presence: 'never' } as never
					]
				}
			],
			total: 1,
			seen: ''
		});
		server.on('get', '/api/v1/dialects', {
			items: [{ app: 'corrow' }, { app: 'corrow' }],
			total: 2
		} as never);
		server.on('get', '/api/v1/productions', {
			items: [{ id: null, name: 'nine lamps', ended_at: null, ended_by: null, delivered: 0, seats: 1 }],
			total: 1
		});
	});

	test('are scanned on a seat that has reported, and the form shows how far the scan is', async () => {
		server.on('post', '/api/v1/projects/look', { order: 'o1' } as never);
		server.on('get', '/api/v1/projects/scans/{order}', {
			finished: true,
			failed: false,
			sentence: 'pan-03: 0 projects scanned.'
		});
		const screen = await visit('/stores/projects');
		const form = screen.getByRole('region', { name: 'Scan projects' });
		await expect.element(form.getByRole('option', { name: 'pan-03' })).toBeInTheDocument();
		expect(form.getByRole('option', { name: 'new-01' }).elements()).toEqual([]);
		expect(form.getByRole('option', { name: 'Corrow' }).elements()).toHaveLength(1);
		await form.getByRole('combobox').nth(0).selectOptions('corrow');
		await form.getByRole('combobox').nth(1).selectOptions('pan-03');
		await form.getByRole('button', { name: 'Scan projects on this seat' }).click();
		await expect.element(form.getByText('pan-03: 0 projects scanned.')).toBeVisible();
		expect(server.asked('post', '/api/v1/projects/look')[0]?.body).toEqual({
			seat: 'pan-03',
			app: 'corrow',
			storage: '',
			file: ''
		});
	});

	test('show a refused scan in the form that asked for it', async () => {
		server.refuse(
			'post',
			'/api/v1/projects/look',
			422,
			'no application corrow of pan-03 has a project folder'
		);
		const screen = await visit('/stores/projects');
		const form = screen.getByRole('region', { name: 'Scan projects' });
		await expect.element(form.getByRole('option', { name: 'pan-03' })).toBeInTheDocument();
		await form.getByRole('combobox').nth(0).selectOptions('corrow');
		await form.getByRole('combobox').nth(1).selectOptions('pan-03');
		await form.getByRole('button', { name: 'Scan projects on this seat' }).click();
		await expect.element(form.getByRole('alert')).toHaveTextContent('has a project folder');
	});

	test('of a production are looked through each night, until that is ended', async () => {
		server.on('delete', '/api/v1/projects/nightly/{number}', null as never);
		const screen = await visit('/stores/projects');
		await screen.getByRole('button', { name: 'Stop scanning nine lamps' }).click();
		server.on('get', '/api/v1/projects/nightly', { items: [], total: 0 });
		server.tell('project');
		await expect.element(screen.getByText('No nightly scans yet')).toBeVisible();
		expect(server.asked('delete', '/api/v1/projects/nightly/{number}')[0]?.path).toBe(
			'/api/v1/projects/nightly/2'
		);
	});
});
