import { beforeEach, describe, expect, test } from 'vitest';
import type { Schemas } from '../../api/client';
import { buttonsOf, server, visit, withServer, type Role } from '../../tests/server';

withServer();

const LEG: Schemas['LegOut'] = {
	seat: 'pan-03',
	room: 'Pan House',
	wave: 0,
	step: 'waiting',
	state: 'waiting',
	message: 'ordered; waiting for the seat',
	objection: '',
	put_off: 0,
	asks_waiver: false,
	troubled: false,
	can_retry: false,
	can_put_back: false,
	moved_at: '2026-11-30T09:00:00Z',
	ended_at: null
};
const ROLLOUT: Schemas['RolloutOut'] = {
	id: 8,
	kind: 'correct',
	title: 'Correct Held back on 2 seats',
	sentence: '1 of 2 seats is settled.',
	state: 'running',
	reason: '',
	created_by: 'ida',
	created_at: '2026-11-30T09:00:00Z',
	approved_by: null,
	ended_at: null,
	starts_at: null,
	of: null,
	put_back_by: null,
	report: null,
	errands: 0,
	seats: 2,
	counts: {},
	steps: ['waiting', 'saving', 'applying', 'proving'],
	legs: [LEG, { ...LEG, seat: 'pan-04', state: 'settled', step: 'proving', message: '', can_put_back: true }],
	behind_canaries: false,
	can_approve: false,
	can_begin_now: false,
	can_go_on: false,
	can_put_back: false,
	can_resume: false
};

async function rollout(more: Partial<typeof ROLLOUT> = {}, role: Role = 'supervisor') {
	server.on('get', '/api/v1/rollouts/{number}/seats/{name}', { seat: 'pan-03', changes: [], left: [] });
	server.on('get', '/api/v1/rollouts/{number}', { ...ROLLOUT, ...more });
	const screen = await visit('/rollouts/8', role);
	await expect.element(screen.getByRole('heading', { level: 1 })).toBeVisible();
	return screen;
}
const acts = (screen: Awaited<ReturnType<typeof visit>>) =>
	buttonsOf(screen.getByRole('main')).filter((name) => !/^\w+-\d+$/.test(name ?? '')); // seats are opened

beforeEach(() => {
	server.on('get', '/api/v1/stayed', { items: [], total: 0 });
});

describe('a rollout', () => {
	test.each<[string, Partial<typeof ROLLOUT>, string[]]>([
		['running', {}, ['Halt rollout']],
		[
			'that waits for its hour',
			{ can_begin_now: true, can_go_on: true, behind_canaries: true },
			['Start now…', 'Continue without canaries', 'Halt rollout']
		],
		['between two waves', { can_go_on: true }, ['Start next wave now', 'Halt rollout']],
		[
			'that waits for approval',
			{ state: 'proposed', can_approve: true },
			['Approve rollout', 'Withdraw rollout']
		],
		['that is halted', { state: 'halted', can_resume: true }, ['Resume rollout']],
		[
			'at its end',
			{ state: 'finished', ended_at: ROLLOUT.created_at, can_put_back: true },
			['Create new plan', 'Put everything back']
		],
		['that put another one back', { kind: 'put_back', state: 'finished', ended_at: ROLLOUT.created_at }, []]
	])('%s offers what would do something', async (_, more, expected) => {
		expect(acts(await rollout(more))).toEqual(expected);
	});

	test('offers nothing to a viewer', async () => {
		const screen = await rollout({ can_begin_now: true, can_go_on: true, can_put_back: true }, 'viewer');
		expect(acts(screen)).toEqual([]);
	});

	test('leads to what put it back, and to what it puts back', async () => {
		const screen = await rollout({ state: 'finished', of: 3, put_back_by: 9, approved_by: 'sal' });
		const main = screen.getByRole('main');
		await expect.element(main).toHaveTextContent('approved by sal');
		const links = main.getByRole('link', { name: /^rollout \d/ }).elements();
		expect(links.map((link) => link.getAttribute('href'))).toEqual(['/rollouts/3', '/rollouts/9']);
	});

	test('begins before its hour for a reason alone', async () => {
		server.on('post', '/api/v1/rollouts/{number}/begin', null as never);
		const screen = await rollout({ can_begin_now: true });
		await screen.getByRole('button', { name: 'Start now…' }).click();
		await screen.getByRole('button', { name: 'Start rollout now' }).click();
		expect(server.asked('post', '/api/v1/rollouts/{number}/begin')).toEqual([]);
		await screen.getByLabelText('Reason').fill('the room is free');
		await screen.getByRole('button', { name: 'Start rollout now' }).click();
		await expect.element(screen.getByRole('button', { name: 'Start now…' })).toBeVisible();
		expect(server.asked('post', '/api/v1/rollouts/{number}/begin')[0]?.body).toEqual({
			why: 'the room is free'
		});
	});

	test('says why an act was refused', async () => {
		server.refuse('post', '/api/v1/rollouts/{number}/halt', 409, 'it has ended meanwhile');
		const screen = await rollout();
		await screen.getByRole('button', { name: 'Halt rollout' }).click();
		await expect.element(screen.getByRole('alert')).toHaveTextContent('it has ended meanwhile');
	});

	test('waits with an act for a second person where the house wants one', async () => {
		server.on('post', '/api/v1/rollouts/{number}/halt', { proposal: 4 } as never);
		const screen = await rollout();
		const answer = server.answer.bind(server);
		server.answer = async (request) => {
			const given = await answer(request);
			return request.url.endsWith('/halt') ? new Response(given.body, { status: 202 }) : given;
		};
		try {
			await screen.getByRole('button', { name: 'Halt rollout' }).click();
			await expect.element(screen.getByRole('alert')).toHaveTextContent('a second person must approve this');
		} finally {
			server.answer = answer;
		}
	});

	test('follows the news of its seats', async () => {
		const screen = await rollout();
		const track = screen.getByRole('img', { name: /^pan-03/ });
		await expect.element(track).toHaveAccessibleName('pan-03: waiting, ordered; waiting for the seat');
		const moved = { ...LEG, state: 'moving' as const, step: 'applying', message: '' };
		server.on('get', '/api/v1/rollouts/{number}', { ...ROLLOUT, legs: [moved] });
		server.tell('rollout', '8');
		await expect.element(track).toHaveAccessibleName('pan-03: running, applying');
	});

	test('puts back everything, and leads to that rollout', async () => {
		const back = { ...ROLLOUT, id: 9, kind: 'put_back' as const, title: 'Put back: Held back' };
		server.on('post', '/api/v1/rollouts/{number}/put-back', { id: 9 });
		const screen = await rollout({ state: 'finished', can_put_back: true });
		server.on('get', '/api/v1/rollouts/{number}', back);
		await screen.getByRole('button', { name: 'Put everything back' }).click();
		await expect.element(screen.getByRole('heading', { name: /^Put back/ })).toBeVisible();
		expect(location.pathname).toBe('/rollouts/9');
	});

	test('that is planned again but for nothing says so', async () => {
		server.on('get', '/api/v1/rollouts/{number}/again', { findings: [], terms: {}, name: '' } as never);
		const screen = await rollout({ state: 'finished', ended_at: ROLLOUT.created_at });
		await screen.getByRole('button', { name: 'Create new plan' }).click();
		await expect
			.element(screen.getByRole('alert'))
			.toHaveTextContent('Everything in this rollout is in norm.');
	});
});

describe('a seat of a rollout', () => {
	test('is open when it is the only one, and can be closed', async () => {
		const screen = await rollout({ legs: [{ ...LEG, state: 'stopped', can_retry: true }] });
		const retry = screen.getByRole('button', { name: 'Retry pan-03' });
		await expect.element(retry).toBeVisible();
		await screen.getByRole('button', { name: 'pan-03', exact: true }).click();
		expect(retry.elements()).toEqual([]);
	});

	test.each<[string, Partial<Schemas['LegOut']>, string[]]>([
		['that waits', {}, ['Skip pan-03']],
		['that objects', { objection: 'a screening' }, ['Continue on pan-03 anyway', 'Skip pan-03']],
		['that stopped', { state: 'stopped', can_retry: true }, ['Retry pan-03']],
		['that is settled', { state: 'settled', can_put_back: true }, ['Put pan-03 back']]
	])('%s can be answered', async (_, more, expected) => {
		const screen = await rollout({
			legs: [
				{ ...LEG, ...more },
				{ ...LEG, seat: 'pan-04', wave: 0 }
			]
		});
		await screen.getByRole('button', { name: 'pan-03' }).click();
		await expect.poll(() => acts(screen)).toEqual(['Halt rollout', ...expected]);
	});

	test('is left out by its name', async () => {
		server.on('post', '/api/v1/rollouts/{number}/seats/{name}/leave-out', null as never);
		const screen = await rollout();
		await screen.getByRole('button', { name: 'pan-03' }).click();
		await screen.getByRole('button', { name: 'Skip pan-03' }).click();
		await expect
			.poll(() =>
				server.asked('post', '/api/v1/rollouts/{number}/seats/{name}/leave-out').map(({ path }) => path)
			)
			.toEqual(['/api/v1/rollouts/8/seats/pan-03/leave-out']);
	});
});

describe('an editor', () => {
	const PLANNED: Schemas['PlannedOut'] = {
		rollout: 8,
		title: 'Correct Held back',
		by: 'ida',
		state: 'waiting',
		message: 'Corrow is open with unsaved work',
		closes: ['corrow'],
		begun: true,
		latest: new Date(Date.now() + 48 * 3_600_000).toISOString(),
		may_put_off: true,
		objection: '',
		asks_waiver: false,
		plan: { seat: 'pan-03', changes: [], left: [] },
		reasons: [{ title: 'Held back', app: 'corrow', because: 'the system pages otherwise' }]
	};
	const MINE: Schemas['MineOut'] = {
		seat: 'pan-03',
		sentence: 'One change waits.',
		asked: [],
		planned: [PLANNED],
		errands: [],
		done: []
	};
	async function mine(more: Partial<Schemas['MineOut']> = {}) {
		server.on('get', '/api/v1/seats/{name}/planned', { ...MINE, ...more });
		server.on('get', '/api/v1/seats/{name}/projects', { items: [], total: 0 });
		server.on('get', '/api/v1/seats/{name}', {
			families: [],
			levels: [],
			stores: [],
			facts: null,
			seen_at: null
		} as never);
		const screen = await visit('/', 'editor', 'pan-03');
		await expect.element(screen.getByRole('heading', { name: 'pan-03', level: 1 })).toBeVisible();
		return screen;
	}

	test('puts a change off to a moment that is allowed', async () => {
		server.on('post', '/api/v1/rollouts/{number}/seats/{name}/put-off', { ...MINE, planned: [] });
		const screen = await mine();
		await screen.getByRole('button', { name: 'for an hour' }).click();
		await expect.poll(() => screen.getByRole('heading', { name: PLANNED.title }).elements()).toEqual([]);
		const [asked] = server.asked('post', '/api/v1/rollouts/{number}/seats/{name}/put-off');
		const until = Date.parse((asked?.body as { until: string }).until) - Date.now();
		expect(Math.abs(until - 3_600_000)).toBeLessThan(600_000);
	});

	test.each([
		['Object', 'What is the problem?', false],
		['Ask for a waiver', 'Why should the setting stay, and for how long?', true]
	])('can: %s', async (button, question, asks_waiver) => {
		server.on('post', '/api/v1/rollouts/{number}/seats/{name}/object', {
			...MINE,
			planned: [{ ...PLANNED, objection: 'a screening', message: 'Somebody objects' }]
		});
		const screen = await mine();
		await screen.getByRole('button', { name: button }).click();
		const send = screen.getByRole('button', { name: 'Send to the supervisor' });
		await expect.element(send).toBeDisabled();
		await screen.getByLabelText(question).fill('a screening');
		await send.click();
		await expect.element(screen.getByText('Somebody objects')).toBeVisible();
		expect(screen.getByRole('button', { name: 'Object' }).elements()).toEqual([]);
		expect(server.asked('post', '/api/v1/rollouts/{number}/seats/{name}/object')[0]?.body).toEqual({
			why: 'a screening',
			asks_waiver
		});
	});

	test('cannot answer what has begun', async () => {
		const screen = await mine({ planned: [{ ...PLANNED, state: 'moving' }] });
		await expect.element(screen.getByRole('heading', { name: PLANNED.title })).toBeVisible();
		expect(screen.getByRole('button', { name: 'Object' }).elements()).toEqual([]);
	});

	test('is asked to close an application, hears who comes, and what was done', async () => {
		const done = {
			rollout: 7,
			title: 'Correct power',
			by: 'ida',
			state: 'stopped',
			changes: ['Power: steady'],
			message: 'it was put back',
			ended_at: ROLLOUT.created_at
		} as const;
		const errand = {
			id: 1,
			does: 'Install driver 12.1',
			because: 'The branch is a preview.',
			minutes: 15
		} as never;
		const screen = await mine({
			planned: [],
			asked: [
				{ app: 'corrow', why: 'Its preferences change.', since: ROLLOUT.created_at },
				{ app: null, why: 'A driver was installed.', since: '2026-11-30T10:00:00Z' }
			],
			errands: [errand],
			done: [{ ...done, changes: [...done.changes] }]
		});
		for (const words of [
			'Please close Corrow',
			'Please restart this machine',
			'Takes about 15 minutes at your seat',
			'it was put back'
		])
			await expect.element(screen.getByRole('main')).toHaveTextContent(words);
	});
});
