import { describe, expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { open, server, visit, whoIs, withServer } from '../../tests/server';

withServer();

const PERSON: Schemas['PersonOut'] = {
	name: 'ida',
	role: 'assistant',
	seat: '',
	active: true,
	has_password: true,
	last_seen_at: null,
	seen: 's1',
	tokens: 2
};
const people = (...more: Partial<Schemas['PersonOut']>[]) => ({
	items: [PERSON, ...more.map((one) => ({ ...PERSON, ...one }))],
	total: 1 + more.length
});

describe('signing in', () => {
	test('says why it was refused and keeps the name', async () => {
		server.refuse('post', '/api/v1/session', 401, 'the name or the password is wrong');
		const screen = await visit('/', null);
		await screen.getByLabelText('Name').fill('ida');
		await screen.getByLabelText('Password').fill('wrong');
		await screen.getByRole('button', { name: 'Sign in' }).click();
		await expect.element(screen.getByRole('alert')).toHaveTextContent('the name or the password is wrong');
		await expect.element(screen.getByLabelText('Name')).toHaveValue('ida');
	});

	test('shows the view of the address at once', async () => {
		server.on('get', '/api/v1/people', people());
		server.on('post', '/api/v1/session', { ...whoIs('administrator'), name: 'ida' });
		const screen = await visit('/people', null);
		await screen.getByLabelText('Name').fill('ida');
		await screen.getByLabelText('Password').fill('right');
		await screen.getByRole('button', { name: 'Sign in' }).click();
		await expect.element(screen.getByRole('heading', { name: 'People' })).toBeVisible();
		expect(server.asked('post', '/api/v1/session')[0]?.body).toEqual({ name: 'ida', password: 'right' });
	});

	test('is asked for again once the session has ended', async () => {
		server.on('get', '/api/v1/people', people());
		const screen = await visit('/people', 'administrator');
		await expect.element(screen.getByRole('heading', { name: 'People' })).toBeVisible();
		server.on('get', '/api/v1/session', whoIs(null));
		server.on('delete', '/api/v1/session', null as never);
		await screen.getByRole('button', { name: 'Sign out', exact: true }).click();
		await expect.element(screen.getByRole('button', { name: 'Sign in' })).toBeVisible();
		expect(screen.container.textContent).not.toContain('ida');
	});

	test('cannot begin while the server is away, and begins when it is back', async () => {
		server.refuse('get', '/api/v1/session', 503, 'the server starts');
		server.on('get', '/api/v1/people', people());
		const screen = await open('/people');
		await expect.element(screen.getByRole('alert')).toHaveTextContent('the server starts');
		server.on('get', '/api/v1/session', whoIs('administrator'));
		await screen.getByRole('button', { name: 'Try again' }).click();
		await expect.element(screen.getByRole('heading', { name: 'People' })).toBeVisible();
	});
});

describe('people', () => {
	const row = (screen: Awaited<ReturnType<typeof visit>>, name: string) =>
		screen.getByRole('row', { name: new RegExp(`^${name}`) });

	test('are for administrators alone', async () => {
		const screen = await visit('/people', 'supervisor');
		await expect.element(screen.getByRole('navigation')).toBeVisible();
		expect(screen.getByRole('heading', { name: 'People' }).elements()).toEqual([]);
		expect(server.asked('get', '/api/v1/people')).toEqual([]);
	});

	test('are added with a role, and the link is shown once', async () => {
		server.on('get', '/api/v1/people', people());
		server.on('post', '/api/v1/people', { link: 'abc123', name: 'sal', valid_hours: 24 });
		const screen = await visit('/people', 'administrator');
		await screen.getByLabelText('Name').fill('  sal ');
		await screen.getByRole('combobox', { name: /^Role$/ }).selectOptions('editor');
		await screen.getByRole('textbox', { name: /^Seat$/ }).fill('pan-03');
		await screen.getByRole('button', { name: 'Add person and create link' }).click();
		await expect.element(screen.container).toHaveTextContent('/set-password#abc123');
		expect(server.asked('post', '/api/v1/people')[0]?.body).toEqual({
			name: 'sal',
			role: 'editor',
			seat: 'pan-03'
		});
		await expect.element(screen.getByLabelText('Name')).toHaveValue('');
	});

	test('keep what was typed when they are refused', async () => {
		server.on('get', '/api/v1/people', people());
		server.refuse('post', '/api/v1/people', 409, 'there is a sal already');
		const screen = await visit('/people', 'administrator');
		await screen.getByLabelText('Name').fill('sal');
		await screen.getByRole('button', { name: 'Add person and create link' }).click();
		await expect.element(screen.getByRole('alert')).toHaveTextContent('there is a sal already');
		await expect.element(screen.getByLabelText('Name')).toHaveValue('sal');
	});

	test('lose their seat with the role of an editor', async () => {
		server.on('get', '/api/v1/people', people({ name: 'tor', role: 'editor', seat: 'pan-04' }));
		server.on('patch', '/api/v1/people/{name}', { ...PERSON, name: 'tor' });
		const screen = await visit('/people', 'administrator');
		await screen.getByLabelText('Role of tor').selectOptions('viewer');
		await expect
			.poll(() => server.asked('patch', '/api/v1/people/{name}')[0]?.body)
			.toEqual({
				role: 'viewer',
				seat: '',
				seen: 's1'
			});
	});

	test('who are disabled can only be enabled', async () => {
		server.on('get', '/api/v1/people', people({ name: 'tor', active: false }));
		server.on('post', '/api/v1/people/{name}/enable', { ...PERSON, name: 'tor' } as never);
		const screen = await visit('/people', 'administrator');
		await expect.element(row(screen, 'tor')).toHaveTextContent('disabled');
		await row(screen, 'tor').getByRole('button').click(); // there is but one
		expect(server.asked('post', '/api/v1/people/{name}/enable').map(({ path }) => path)).toEqual([
			'/api/v1/people/tor/enable'
		]);
	});

	test('are read anew when the server tells of a change', async () => {
		server.on('get', '/api/v1/people', people());
		const screen = await visit('/people', 'administrator');
		await expect.element(row(screen, 'ida')).toBeVisible();
		server.on('get', '/api/v1/people', people({ name: 'new' }));
		server.tell('everything');
		await expect.element(row(screen, 'new')).toBeVisible();
	});

	test('that cannot be read say why, and are asked for again', async () => {
		server.refuse('get', '/api/v1/people', 500, 'the database is away');
		const screen = await visit('/people', 'administrator');
		await expect.element(screen.getByRole('alert')).toHaveTextContent('the database is away');
		server.on('get', '/api/v1/people', people());
		await screen.getByRole('button', { name: 'Try again' }).click();
		await expect.element(row(screen, 'ida')).toBeVisible();
	});
});
