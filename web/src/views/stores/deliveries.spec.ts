import { beforeEach, describe, expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { buttonsOf, server, visit, withServer, type Role } from '../../tests/server';

withServer();

const ROW: Schemas['DeliveredOut'] = {
	id: 5,
	project: 'pilot',
	production: 'quay nights',
	app: 'tamsel',
	project_app: 'corrow',
	file: '/out/pilot_v7.mkv',
	digest: 'ab'.repeat(32),
	size: 4_200_000_000,
	seat: 'pan-03',
	state: 'proposed',
	reason: '',
	proposed_by: 'agent pan-03',
	proposed_at: '2026-11-30T09:00:00Z',
	finished_at: '2026-11-30T08:00:00Z',
	signed_at: null,
	signed_by: null,
	flaws: null,
	inspected: null,
	inspection: null
};

const RELEASE: Schemas['ReleaseOut'] = {
	sentence: 'Releases 31 GB of renders on 2 seats.',
	warnings: ['Nobody has inspected this file.'],
	may_sign: true,
	size: 31_000_000_000,
	seats: 2,
	stores: [
		{ seat: 'pan-03', app: 'corrow', kind: 'renders', size: 30_000_000_000 },
		{ seat: 'pan-04', app: 'corrow', kind: 'renders', size: 1_000_000_000 }
	],
	seen: 's1'
};

async function deliveries(rows: Partial<typeof ROW>[], role: Role = 'supervisor') {
	const items = rows.map((row, number) => ({ ...ROW, id: number + 1, ...row }));
	server.on('get', '/api/v1/deliveries', { items, total: items.length });
	const screen = await visit('/stores/deliveries', role);
	await expect.element(screen.getByRole('region', { name: 'To be signed' })).toBeVisible();
	return screen;
}

beforeEach(() => {
	server.on('get', '/api/v1/productions', {
		items: [
			{ id: 3, name: 'quay nights', ended_at: ROW.proposed_at, ended_by: 'sal', delivered: 1, seats: 0 },
			{ id: null, name: 'nine lamps', ended_at: null, ended_by: null, delivered: 0, seats: 1 }
		],
		total: 2
	});
});

describe('deliveries', () => {
	test('stand by their state, each with what can be done about it', async () => {
		const screen = await deliveries([
			{},
			{ state: 'delivered', project: 'reel', signed_by: 'sal', signed_at: ROW.proposed_at },
			{ state: 'withdrawn', project: 'teaser', reason: 'the wrong cut' }
		]);
		const acts = (region: string) => buttonsOf(screen.getByRole('region', { name: region, exact: true }));
		expect(acts('To be signed')).toEqual(['Sign…', 'Assign…', 'Inspect file', 'Withdraw…']);
		expect(acts('Delivered')).toEqual(['Withdraw…']);
		expect(acts('Withdrawn')).toEqual([]);
		await expect
			.element(screen.getByRole('region', { name: 'Withdrawn' }))
			.toHaveTextContent('the wrong cut');
	});

	test('can only be looked at by a viewer', async () => {
		const screen = await deliveries([{}], 'viewer');
		expect(screen.getByRole('main').getByRole('button').elements()).toEqual([]);
	});

	test.each<[string, Partial<typeof ROW>]>([
		['not inspected', {}],
		['inspected: no flaws', { flaws: 0, inspection: 'i1' }],
		['inspected: 3 flaws', { flaws: 3, inspection: 'i1' }]
	])('say that they are %s', async (words, row) => {
		const screen = await deliveries([row]);
		await expect.element(screen.getByRole('region', { name: 'To be signed' })).toHaveTextContent(words);
	});

	test('are signed by one click after what they release was shown', async () => {
		server.on('get', '/api/v1/deliveries/{number}/release', RELEASE);
		server.on('post', '/api/v1/deliveries/{number}/sign', ROW as never);
		const screen = await deliveries([{ id: 5 }]);
		await screen.getByRole('button', { name: 'Sign…', exact: true }).click();
		const release = screen.getByRole('region', { name: 'Sign delivery of pilot' });
		await expect.element(release).toHaveTextContent('Releases 31 GB of renders on 2 seats.');
		await expect.element(release).toHaveTextContent('Nobody has inspected this file.');
		expect(release.getByRole('row').elements()).toHaveLength(3);
		expect(server.asked('post', '/api/v1/deliveries/{number}/sign')).toEqual([]);
		await release.getByRole('button', { name: 'Sign delivery' }).click();
		await expect.poll(() => server.asked('post', '/api/v1/deliveries/{number}/sign')).toHaveLength(1);
		const [asked] = server.asked('post', '/api/v1/deliveries/{number}/sign');
		expect([asked?.path, asked?.body]).toEqual(['/api/v1/deliveries/5/sign', { seen: 's1' }]);
	});

	test('are not signed where something has to be assigned first', async () => {
		server.on('get', '/api/v1/deliveries/{number}/release', { ...RELEASE, may_sign: false });
		const screen = await deliveries([{}]);
		await screen.getByRole('button', { name: 'Sign…', exact: true }).click();
		await expect.element(screen.getByRole('button', { name: 'Sign delivery' })).toBeDisabled();
		await screen.getByRole('button', { name: 'Cancel' }).click();
		await expect.element(screen.getByRole('button', { name: 'Sign delivery' })).not.toBeInTheDocument();
	});

	test.each<[string, Partial<typeof ROW>]>([
		['proposed', {}],
		['delivered', { signed_by: 'sal', signed_at: ROW.proposed_at }]
	])('that are %s without a production are assigned to one', async (state, row) => {
		server.on('post', '/api/v1/deliveries/{number}/assign', ROW as never);
		server.on('get', '/api/v1/dialects', {
			items: [{ app: 'corrow' }, { app: 'tamsel' }],
			total: 2
		} as never);
		const screen = await deliveries([
			{ ...row, state: state as 'proposed', production: '', project_app: '' }
		]);
		await expect.element(screen.getByText('no production')).toBeVisible();
		await expect.element(screen.getByRole('button', { name: 'Sign…', exact: true })).not.toBeInTheDocument();
		await screen.getByRole('button', { name: 'Assign…' }).click();
		await screen.getByRole('textbox', { name: 'Production', exact: true }).fill('Quay Nights');
		await screen.getByLabelText('Application').selectOptions('corrow');
		await screen.getByRole('button', { name: 'Assign delivery' }).click();
		await expect
			.poll(() => server.asked('post', '/api/v1/deliveries/{number}/assign')[0]?.body)
			.toEqual({ production: 'Quay Nights', app: 'corrow' });
	});

	test('are inspected by their seat, once', async () => {
		server.on('post', '/api/v1/seats/{name}/exports/inspect', { order: 'o1' } as never);
		const screen = await deliveries([{}]);
		await screen.getByRole('button', { name: 'Inspect file' }).click();
		await expect.element(screen.getByRole('button', { name: 'pan-03 inspects the file' })).toBeDisabled();
	});

	test('are withdrawn for a reason alone; refused, the reason stays', async () => {
		server.refuse('post', '/api/v1/deliveries/{number}/withdraw', 409, 'it was signed meanwhile');
		const screen = await deliveries([{}]);
		await screen.getByRole('button', { name: 'Withdraw…' }).click();
		await screen.getByRole('button', { name: 'Withdraw delivery' }).click();
		expect(server.asked('post', '/api/v1/deliveries/{number}/withdraw')).toEqual([]);
		await screen.getByLabelText('Reason').fill('the wrong cut');
		await screen.getByRole('button', { name: 'Withdraw delivery' }).click();
		await expect.element(screen.getByRole('alert')).toHaveTextContent('it was signed meanwhile');
		await expect.element(screen.getByLabelText('Reason')).toHaveValue('the wrong cut');
	});

	test('registered by hand need a whole hash', async () => {
		server.on('post', '/api/v1/deliveries', ROW);
		server.on('get', '/api/v1/dialects', { items: [{ app: 'corrow' }], total: 1 } as never);
		const screen = await deliveries([]);
		await screen.getByRole('button', { name: 'Register an export…' }).click();
		await screen.getByRole('textbox', { name: 'Project' }).fill('pilot');
		await screen.getByRole('textbox', { name: 'Production', exact: true }).fill('quay nights');
		await screen.getByLabelText('Application').selectOptions('corrow');
		await screen.getByRole('textbox', { name: /^File/ }).fill('/out/pilot.mkv');
		await screen.getByLabelText('Bytes').fill('12');
		await screen.getByLabelText('SHA-256 of the file').fill('ab');
		await screen.getByRole('button', { name: 'Register export' }).click();
		expect(server.asked('post', '/api/v1/deliveries')).toEqual([]);
		await screen.getByLabelText('SHA-256 of the file').fill('0f'.repeat(32));
		await screen.getByRole('button', { name: 'Register export' }).click();
		await expect
			.poll(() => server.asked('post', '/api/v1/deliveries')[0]?.body)
			.toMatchObject({
				project: 'pilot',
				digest: '0f'.repeat(32),
				size: 12,
				production: 'quay nights',
				app: 'corrow',
				seat: ''
			});
	});
});

describe('productions', () => {
	test('say how many seats they are live on, or when they ended', async () => {
		const list = (await deliveries([])).getByRole('region', { name: 'Productions' });
		await expect.element(list).toHaveTextContent(/quay nights.*ended/);
		await expect.element(list).toHaveTextContent(/nine lamps.*live on 1 seat/);
	});

	test('are ended and reopened', async () => {
		server.on('post', '/api/v1/productions/close', null as never);
		server.on('delete', '/api/v1/productions/{number}', null as never);
		const screen = await deliveries([]);
		await screen.getByLabelText(/Production name/).fill('nine lamps');
		await screen.getByRole('button', { name: 'Mark production as ended' }).click();
		await expect
			.poll(() => server.asked('post', '/api/v1/productions/close')[0]?.body)
			.toMatchObject({
				name: 'nine lamps'
			});
		await screen.getByRole('button', { name: 'Reopen quay nights' }).click();
		await expect
			.poll(() => server.asked('delete', '/api/v1/productions/{number}').map(({ path }) => path))
			.toEqual(['/api/v1/productions/3']);
	});
});
