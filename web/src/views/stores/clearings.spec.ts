import { beforeEach, describe, expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { buttonsOf, server, visit, withServer, type Role } from '../../tests/server';

withServer();

const GB = 1_000_000_000;
const KIND: Schemas['KindOut'] = {
	kind: 'source_cache',
	stores: 2,
	items: 1200,
	size: 90 * GB,
	going: 1,
	going_size: 61 * GB,
	cleared: 0,
	cleared_size: 0,
	making: 'made again by itself',
	again: ''
};
const SEAT: Schemas['SeatClearingOut'] = {
	seat: 'pan-03',
	room: 'Pan House',
	state: 'planned',
	message: '',
	promised: 61 * GB,
	cleared: 0,
	held: 0,
	freed: 0
};
const PLAN: Schemas['ClearingOut'] = {
	id: 7,
	title: 'Source caches unused for 60 days',
	sentence: '61 GB on one seat would go.',
	state: 'planned',
	seen: 's1',
	reason: '',
	created_by: 'ida',
	created_at: '2026-11-30T09:00:00Z',
	begins: null,
	ended_at: null,
	signed_at: null,
	signed_by: null,
	seats: 1,
	on: [SEAT],
	kinds: [KIND],
	stays: [{ why: 'used lately', items: 3, size: 29 * GB }],
	cleared_items: 0,
	put_back: 0,
	returned: 0,
	lost: 0,
	going: 1,
	promised: 61 * GB,
	at_once: 0,
	cleared: 0,
	freed: 0,
	held: 0,
	held_until: null,
	oldest: '2025-09-11T00:00:00Z'
};
const STORE: Schemas['StoreClearingOut'] = {
	seat: 'pan-03',
	place: 0,
	kind: 'source_cache',
	app: 'corrow',
	folder: '/fast/corrow/source_cache',
	volume: 'v1',
	size: 90 * GB,
	items: 1200,
	going: 1200,
	is_implausible: false,
	going_size: 61 * GB,
	oldest: '2025-09-11T00:00:00Z',
	at_once: false,
	reasons: [],
	trouble: '',
	failed: '',
	put_back: '',
	cleared: null,
	deleted: null
};

async function plan(more: Partial<typeof PLAN> = {}, role: Role = 'supervisor', search = '') {
	server.on('get', '/api/v1/clearings/{number}', { ...PLAN, ...more });
	const screen = await visit(`/stores/clearings/7${search}`, role);
	await expect.element(screen.getByRole('heading', { name: PLAN.title })).toBeVisible();
	return screen;
}
const names = (screen: Awaited<ReturnType<typeof visit>>) => buttonsOf(screen.getByRole('main'));

beforeEach(() => {
	server.on('get', '/api/v1/clearings/{number}/stores', { items: [STORE], total: 1 });
});

describe('what can be done with a plan', () => {
	test.each<[string, Partial<typeof PLAN>, string[]]>([
		['while seats answer', { state: 'looking', going: 0 }, ['Continue without the others', 'Discard plan']],
		['to be signed', {}, ['Sign clean-up…', 'Discard plan']],
		['of which nothing may go', { going: 0 }, ['Discard plan']],
		['running', { state: 'running', held: GB }, ['Halt…', 'Put back 1 GB']],
		['halted', { state: 'halted' }, ['Resume', 'Discard plan']],
		['at its end', { state: 'ended' }, []]
	])('%s', async (_, more, expected) => {
		expect(names(await plan(more)).filter((name) => !name?.startsWith('pan-03'))).toEqual(expected);
	});

	test('is nothing for whoever only looks', async () => {
		const screen = await plan({ held: GB }, 'viewer');
		expect(names(screen).filter((name) => !name?.startsWith('pan-03'))).toEqual([]);
	});

	test('is signed as it was read', async () => {
		server.on('post', '/api/v1/clearings/{number}/sign', null as never);
		const screen = await plan();
		await screen.getByRole('button', { name: 'Sign clean-up…' }).click();
		server.on('get', '/api/v1/clearings/{number}', { ...PLAN, state: 'running' });
		await screen.getByRole('button', { name: 'Sign clean-up (61 GB)' }).click();
		await expect.element(screen.getByRole('button', { name: 'Halt…' })).toBeVisible();
		expect(server.asked('post', '/api/v1/clearings/{number}/sign').map(({ body }) => body)).toEqual([
			{ seen: 's1' }
		]);
	});

	test('stays open with the reason when signing is refused', async () => {
		server.refuse('post', '/api/v1/clearings/{number}/sign', 409, 'it is not what you have read any more');
		const screen = await plan();
		await screen.getByRole('button', { name: 'Sign clean-up…' }).click();
		await screen.getByRole('button', { name: /^Sign clean-up \(/ }).click();
		await expect
			.element(screen.getByRole('dialog').getByRole('alert'))
			.toHaveTextContent('it is not what you have read any more');
	});

	test('is halted with a reason alone', async () => {
		server.on('post', '/api/v1/clearings/{number}/halt', null as never);
		const screen = await plan({ state: 'running' });
		await screen.getByRole('button', { name: 'Halt…' }).click();
		await screen.getByRole('button', { name: 'Halt clean-up', exact: true }).click();
		expect(server.asked('post', '/api/v1/clearings/{number}/halt')).toEqual([]);
		await screen.getByRole('textbox', { name: 'Reason' }).fill('the delivery is late');
		await screen.getByRole('button', { name: 'Halt clean-up', exact: true }).click();
		await expect
			.poll(() => server.asked('post', '/api/v1/clearings/{number}/halt')[0]?.body)
			.toEqual({ why: 'the delivery is late' });
	});
});

describe('a plan', () => {
	test('says what goes and what has gone, by kind', async () => {
		const screen = await plan({ state: 'running', signed_at: PLAN.created_at, signed_by: 'sal' });
		const row = screen.getByRole('region', { name: 'To be deleted' }).getByRole('row').nth(1);
		await expect.element(row).toHaveTextContent(/90 GB.*61 GB.*1.*0 B/);
		await expect.element(screen.getByRole('main')).toHaveTextContent('signed by sal');
	});

	test('says the heaviest reasons to stay, and the others when asked', async () => {
		const stays = Array.from({ length: 9 }, (_, number) => ({
			why: `reason ${number}`,
			items: 1,
			size: GB
		}));
		const screen = await plan({ stays });
		const list = screen.getByRole('region', { name: 'Kept, with reasons' });
		expect(list.getByRole('listitem').elements()).toHaveLength(7);
		await list.getByRole('button', { name: '2 more reasons' }).click();
		expect(list.getByRole('listitem').elements()).toHaveLength(9);
	});

	test('shows seats that have something to say and counts the others', async () => {
		const silent = ['a', 'b'].map((seat) => ({ ...SEAT, seat, promised: 0 }));
		const stopped = { ...SEAT, seat: 'sluice-03', promised: 0, message: 'the disk is full' };
		const screen = await plan({ on: [...silent, stopped, SEAT] });
		const seats = screen.getByRole('region', { name: 'Seats' });
		await expect.element(seats).toHaveTextContent('2 seats: nothing to delete');
		await expect.element(seats).toHaveTextContent('the disk is full');
		expect(
			seats
				.getByRole('button')
				.elements()
				.map((one) => one.textContent?.trim())
		).toEqual(['pan-03 Pan House', 'sluice-03 Pan House']);
	});

	test('keeps in the address which seat is open', async () => {
		const screen = await plan();
		await screen.getByRole('button', { name: 'pan-03' }).click();
		expect(location.search).toBe('?open=pan-03');
		await expect.element(screen.getByText('/fast/corrow/source_cache')).toBeVisible();
		await screen.getByRole('button', { name: 'pan-03' }).click();
		expect(location.search).toBe('');
	});

	test('tells of a store what went, what stayed and what failed', async () => {
		const cleared = {
			items: 1100,
			size: 60 * GB,
			held_until: '2026-12-02T09:00:00Z',
			is_reported: true,
			reasons: [{ why: 'used since', items: 100, size: GB }]
		};
		const stores = [
			{ ...STORE, cleared, failed: 'two could not be moved' },
			{ ...STORE, place: 1, items: 0, size: 0, going: 0, kind: 'bin', app: '' },
			{ ...STORE, place: 2, trouble: 'no preference names its folder', going: 0 }
		];
		server.on('get', '/api/v1/clearings/{number}/stores', { items: stores, total: 3 });
		const screen = await plan({ state: 'ended' }, 'supervisor', '?open=pan-03');
		const seats = screen.getByRole('region', { name: 'Seats' });
		for (const words of [
			'1,100 files (60 GB) held until',
			'100 files kept: used since.',
			'two could not be moved',
			'Not scanned: no preference names its folder.',
			/Nothing to delete: System/
		])
			await expect.element(seats).toHaveTextContent(words);
	});
});

describe('the items of a store', () => {
	const LIST = { total: 250, matching: 250, searched: 250, state: 'whole' as const, message: '' };
	const items = (offset: number) =>
		Array.from({ length: 100 }, (_, number) => ({
			path: `peaks/${offset + number}.pk`,
			size: GB,
			used: '2026-01-05T09:00:00Z'
		}));
	const PATH = '/api/v1/clearings/{number}/seats/{name}/stores/{place}/items';
	const open = async (role: Role = 'supervisor') => {
		const screen = await plan({}, role, '?open=pan-03');
		await screen.getByRole('button', { name: 'Show files' }).click();
		return screen;
	};

	test('are asked of the seat once by whoever may', async () => {
		server.on('get', PATH, { ...LIST, state: 'none', items: [] } as never);
		server.on('post', '/api/v1/clearings/{number}/seats/{name}/stores/{place}/list', null as never);
		const screen = await open();
		await expect.element(screen.getByText('Waiting for the list of pan-03…')).toBeVisible();
		expect(server.asked('post', '/api/v1/clearings/{number}/seats/{name}/stores/{place}/list')).toHaveLength(
			1
		);
	});

	test('are asked of nobody by a viewer, who is told whom to ask', async () => {
		server.on('get', PATH, { ...LIST, state: 'none', items: [] } as never);
		const screen = await open('viewer');
		await expect.element(screen.getByText('A supervisor can request the list from the seat.')).toBeVisible();
	});

	test('are searched from the beginning, and paged to the end', async () => {
		server.on('get', PATH, ({ query }) => ({ ...LIST, items: items(Number(query.get('offset'))) }) as never);
		const screen = await open();
		await screen.getByRole('button', { name: 'Next 100' }).click();
		await expect.element(screen.getByText('peaks/100.pk')).toBeVisible();
		await screen.getByRole('button', { name: 'Next 100' }).click();
		await expect.element(screen.getByText('peaks/200.pk')).toBeVisible();
		expect(screen.getByRole('button', { name: 'Next 100' }).elements()).toEqual([]);
		await screen.getByLabelText('Search files').fill('peaks');
		await expect
			.poll(() => {
				const last = server.asked('get', PATH).at(-1)?.query;
				return [last?.get('search'), last?.get('offset')];
			})
			.toEqual(['peaks', '0']);
	});

	test('are searched after a pause in typing, and show how far a long search got', async () => {
		server.on(
			'get',
			PATH,
			({ query }) =>
				({
					...LIST,
					...(query.get('search') ? { matching: 3, searched: 120 } : {}),
					items: items(0)
				}) as never
		);
		const screen = await open();
		await expect.element(screen.getByText('250 of 250')).toBeVisible();
		const field = screen.getByLabelText('Search files').element() as HTMLInputElement;
		for (const typed of ['p', 'pe', 'peaks']) {
			// All in one task: between two calls to the browser the pause may already be over.
			field.value = typed;
			field.dispatchEvent(new Event('input', { bubbles: true }));
		}
		await expect.element(screen.getByText('3 of 250, in the first 120')).toBeVisible();
		const searched = server.asked('get', PATH).map(({ query }) => query.get('search'));
		expect(searched.filter(Boolean)).toEqual(['peaks']);
	});

	test('that the seat refused say why', async () => {
		server.on('get', PATH, { ...LIST, state: 'refused', message: 'the store moved', items: [] } as never);
		await expect.element((await open()).getByText('the store moved')).toBeVisible();
	});
});

describe('planning', () => {
	const seat = { name: 'pan-03' } as never;
	beforeEach(() => {
		server.on('get', '/api/v1/clearings', { items: [], total: 0 });
		server.on('get', '/api/v1/floor', { items: [{ name: 'Pan House', seats: [seat] }], total: 1 } as never);
		server.on('get', '/api/v1/productions', {
			items: [
				{ id: 1, name: 'quay nights', ended_at: PLAN.created_at, ended_by: 'sal', delivered: 1, seats: 0 },
				{ id: null, name: 'nine lamps', ended_at: null, ended_by: null, delivered: 0, seats: 2 }
			],
			total: 2
		});
	});

	test('begins with caches, of all seats, and leads to the plan', async () => {
		server.on('post', '/api/v1/clearings', { id: 7 });
		server.on('get', '/api/v1/clearings/{number}', PLAN);
		const screen = await visit('/stores/clearings');
		await screen.getByLabelText('Unused for (days)').fill('30');
		await screen.getByRole('button', { name: 'Create clean-up plan' }).click();
		await expect.element(screen.getByRole('heading', { name: PLAN.title })).toBeVisible();
		expect(server.asked('post', '/api/v1/clearings')[0]?.body).toEqual({
			kinds: ['source_cache', 'frame_cache'],
			seats: [],
			room: '',
			production: '',
			unused_days: 30,
			free: '',
			quota: ''
		});
	});

	test('of a production begins with what it made, and offers those that have ended', async () => {
		const screen = await visit('/stores/clearings?production=quay%20nights');
		const which = screen.getByLabelText('Production');
		await expect.element(which).toHaveValue('quay nights');
		expect(screen.getByRole('option', { name: 'nine lamps' }).elements()).toEqual([]);
		expect(
			screen
				.getByRole('checkbox')
				.elements()
				.filter((box) => (box as HTMLInputElement).checked)
		).toHaveLength(3);
	});

	test('needs at least one kind, and keeps what was chosen when it is refused', async () => {
		server.refuse('post', '/api/v1/clearings', 422, 'a plan speaks of one production only');
		const screen = await visit('/stores/clearings');
		const begin = screen.getByRole('button', { name: 'Create clean-up plan' });
		for (const box of screen.getByRole('checkbox').all().slice(0, 2)) await box.click();
		await expect.element(begin).toBeDisabled();
		await screen.getByRole('checkbox').nth(2).click();
		await begin.click();
		await expect.element(screen.getByRole('alert')).toHaveTextContent('one production only');
		await expect.element(screen.getByRole('checkbox').nth(2)).toBeChecked();
	});
});
