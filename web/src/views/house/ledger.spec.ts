import { beforeEach, describe, expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { server, visit, withServer } from '../../tests/server';

withServer();

const ENTRY: Schemas['EntryOut'] = {
	id: 300,
	at: '2026-11-30T09:00:00Z',
	actor: 'ida',
	action: 'start_rollout',
	subject: 'rollout 1',
	sentence: 'ida started rollout 1 on 5 seats',
	detail: { seats: ['pan-03'], 'halt after': 2, order: 'o1' },
	digest: 'f00dbabe'.repeat(8)
};

function has(total: number): void {
	server.on('get', '/api/v1/ledger', ({ query }) => {
		const from = Number(query.get('offset') ?? 0);
		const items = Array.from({ length: Math.max(0, Math.min(100, total - from)) }, (_, number) => ({
			...ENTRY,
			id: total - from - number
		}));
		return { items, total };
	});
}

beforeEach(() => {
	has(1);
	server.on('get', '/api/v1/ledger/names', { actors: ['ida', 'agent pan-03'], actions: ['start_rollout'] });
	server.on('get', '/api/v1/ledger/head', {
		at: ENTRY.at,
		entries: 300,
		digest: 'ab'.repeat(32),
		fingerprint: '4686 04c3',
		key: 'k',
		signature: 's'
	});
});

describe('the ledger', () => {
	test('shows the details of an entry on request', async () => {
		const screen = await visit('/ledger');
		const row = screen.getByRole('row').nth(1);
		await expect.element(row).toHaveTextContent('ida started rollout 1 on 5 seats');
		const details = row.getByText('halt after: 2');
		await expect.element(details).not.toBeVisible();
		await row.getByText('Show details').click();
		await expect.element(details).toBeVisible();
		await expect.element(row).toHaveTextContent('f00dbabe');
		await expect.element(screen.getByRole('main')).toHaveTextContent('by key 4686 04c3');
	});

	test('is read without a signed end as well', async () => {
		server.refuse('get', '/api/v1/ledger/head', 404, 'nothing was signed yet');
		const screen = await visit('/ledger');
		await expect.element(screen.getByRole('row').nth(1)).toBeVisible();
		expect(screen.container.textContent).not.toContain('by the key');
	});

	test('is paged to its end and back', async () => {
		has(230);
		const screen = await visit('/ledger');
		const older = screen.getByRole('button', { name: 'older' });
		await older.click();
		await older.click();
		await expect.element(screen.getByText('201 to 230 of 230')).toBeVisible();
		expect(older.elements()).toEqual([]);
		await screen.getByRole('button', { name: 'newer' }).click();
		await expect.element(screen.getByText('101 to 200 of 230')).toBeVisible();
		expect(location.search).toBe('?from=100');
	});

	test('is filtered by its address, and a filter begins at the newest', async () => {
		has(230);
		const screen = await visit('/ledger?from=100');
		await expect.element(screen.getByText('101 to 200 of 230')).toBeVisible();
		await screen.getByLabelText('Who').selectOptions('agent pan-03');
		await expect.poll(() => location.search).toBe('?who=agent+pan-03');
		await expect
			.poll(() => server.asked('get', '/api/v1/ledger').at(-1)?.query.get('actor'))
			.toBe('agent pan-03');
		await screen.getByRole('link', { name: 'Clear filters' }).click();
		await expect.poll(() => location.search).toBe('');
	});

	test('says that nothing fits', async () => {
		has(0);
		const screen = await visit('/ledger?seat=pan-99');
		await expect.element(screen.getByText('No matching entries.')).toBeVisible();
		await expect.element(screen.getByText('0 to 0 of 0')).toBeVisible();
	});
});

describe('waivers', () => {
	const WAIVER: Schemas['WaiverOut'] = {
		id: 2,
		setting: 'memory.held_back',
		title: 'Held back',
		app: 'corrow',
		scope: 'pan-03',
		seats: ['pan-03'],
		groups: {},
		reason: 'an old machine',
		made_by: 'ida',
		made_at: '2026-11-01T09:00:00Z',
		ends_at: '2026-12-20T23:59:00Z',
		ends_soon: false,
		ended_at: null,
		ended_by: '',
		until_production: '',
		covers: 1
	};
	const shown = async (...more: Partial<typeof WAIVER>[]) => {
		const items = more.map((one, number) => ({ ...WAIVER, id: number + 1, ...one }));
		server.on('get', '/api/v1/waivers', { items, total: items.length });
		server.on('get', '/api/v1/calendar', { address: '/calendar/secret.ics' });
		const screen = await visit('/drift/waivers');
		await expect.element(screen.getByText(/active waivers?/)).toBeVisible();
		return screen;
	};

	test('that hold stand before those that have ended', async () => {
		const screen = await shown(
			{ ended_at: WAIVER.made_at, ended_by: 'date' },
			{ reason: 'until the disk comes' }
		);
		await expect.element(screen.getByText('1 active waiver')).toBeVisible();
		const lines = screen.getByRole('main').getByRole('listitem').elements();
		expect(lines[0]?.textContent).toContain('until the disk comes');
		expect(lines[1]?.textContent).toContain('on its date');
	});

	test('are prolonged to the end of a day, as they were read', async () => {
		server.on('post', '/api/v1/waivers/{number}/prolong', WAIVER as never);
		const screen = await shown({ id: 2 });
		await screen.getByLabelText('New last day').fill('2027-02-03');
		await screen.getByRole('button', { name: 'Extend waiver' }).click();
		await expect
			.poll(() => server.asked('post', '/api/v1/waivers/{number}/prolong')[0]?.body)
			.toEqual({
				ends_at: new Date('2027-02-03T23:59:00').toISOString(),
				seen: WAIVER.ends_at
			});
	});

	test('that wait for a production end with it, once that is said twice', async () => {
		server.on('post', '/api/v1/productions/end', null as never);
		const screen = await shown({ ends_at: null, until_production: 'nine lamps' });
		await screen.getByRole('button', { name: 'nine lamps has ended…' }).click();
		expect(server.asked('post', '/api/v1/productions/end')).toEqual([]);
		await screen.getByRole('button', { name: 'Mark production as ended' }).click();
		await expect.poll(() => server.asked('post', '/api/v1/productions/end')).toHaveLength(1);
	});
});
