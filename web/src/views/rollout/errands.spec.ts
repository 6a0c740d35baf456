import { beforeEach, describe, expect, test } from 'vitest';
import { page } from 'vitest/browser';
import type { Schemas } from '../../api/client';
import { buttonsOf, server, visit, withServer, type Role } from '../../tests/server';

withServer();

const ERRAND: Schemas['ErrandOut'] = {
	id: 3,
	seat: 'pan-08',
	room: 'Pan House',
	does: 'Install driver 12.1',
	because: 'The branch is a preview.',
	note: '',
	bring: ['the installer', 'a keyboard'],
	steps: ['Close everything', 'Run the installer'],
	minutes: 15,
	proof: 'survey',
	proves: 'The next survey proves it.',
	severity: 'must',
	state: 'open',
	message: '',
	words: '',
	made_by: 'ida',
	made_at: '2026-11-30T09:00:00Z',
	rollout: 2,
	signed_by: null,
	signed_at: null,
	ended_at: null
};
const OTHER = { ...ERRAND, id: 4, seat: 'loft-01', room: 'Loft', does: 'Attach a disk' };

function has(errands: Schemas['ErrandOut'][], ended: Schemas['ErrandOut'][] = []): void {
	const stops = errands.map((errand) => ({ seat: errand.seat, room: errand.room, errands: [errand] }));
	server.on('get', '/api/v1/errands', { sentence: `${errands.length} errands.`, stops, ended });
}
async function errands(role: Role = 'supervisor') {
	const screen = await visit('/errands', role);
	await expect.element(screen.getByRole('heading', { name: 'Errands' })).toBeVisible();
	return screen;
}
const steps = (screen: Awaited<ReturnType<typeof visit>>) => screen.getByText('Run the installer');

beforeEach(() => {
	has([ERRAND, OTHER]);
});

describe('errands', () => {
	test('stand by room, and the first one is open beside them', async () => {
		const screen = await errands();
		const rooms = screen.getByRole('main').getByRole('heading', { level: 2 });
		expect(rooms.elements().map((room) => room.firstChild?.textContent?.trim())).toEqual([
			'Pan House',
			'Loft',
			'Install driver 12.1'
		]);
		await expect.element(screen.getByRole('complementary')).toHaveTextContent('the installer');
	});

	test('open in their place on a phone, and close again', async () => {
		await page.viewport(390, 800);
		try {
			const screen = await errands();
			expect(screen.getByRole('complementary').elements()).toEqual([]);
			await screen.getByRole('button', { name: /Install driver/ }).click();
			await expect.element(steps(screen)).toBeVisible();
			await screen.getByRole('button', { name: /Install driver/ }).click();
			expect(steps(screen).elements()).toEqual([]);
		} finally {
			await page.viewport(1280, 800);
		}
	});

	test.each<[Role, string[]]>([
		['supervisor', ['Mark as done', 'Drop errand']],
		['assistant', ['Mark as done']],
		['viewer', []]
	])('offer a %s what they may do', async (role, expected) => {
		const card = (await errands(role)).getByRole('complementary');
		await expect.element(card).toHaveTextContent('Run the installer');
		expect(buttonsOf(card)).toEqual(expected);
	});

	test('are signed off with what was found', async () => {
		server.on('post', '/api/v1/errands/{number}/sign-off', ERRAND);
		const screen = await errands('assistant');
		await screen.getByLabelText('Result').fill('it was 12.1 already');
		has([{ ...ERRAND, state: 'signed', signed_by: 'the assistant', signed_at: ERRAND.made_at, words: 'so' }]);
		await screen.getByRole('button', { name: 'Mark as done' }).click();
		await expect.element(screen.getByText(/Signed off by the assistant, .*: so\./)).toBeVisible();
		await expect.element(screen.getByText(/Waiting for the next survey/)).toBeVisible();
		expect(screen.getByRole('button', { name: 'Mark as done' }).elements()).toEqual([]);
		expect(server.asked('post', '/api/v1/errands/{number}/sign-off')[0]?.body).toEqual({
			words: 'it was 12.1 already'
		});
	});

	test('are dropped for a reason alone', async () => {
		server.on('post', '/api/v1/errands/{number}/drop', ERRAND);
		const screen = await errands();
		const drop = screen.getByRole('button', { name: 'Drop errand' });
		await expect.element(drop).toBeDisabled();
		await screen.getByLabelText(/Result/).fill('  ');
		await expect.element(drop).toBeDisabled();
		await screen.getByLabelText(/Result/).fill('the seat goes next week');
		await drop.click();
		await expect.poll(() => server.asked('post', '/api/v1/errands/{number}/drop')).toHaveLength(1);
	});

	test('that are refused keep what was written', async () => {
		server.refuse('post', '/api/v1/errands/{number}/sign-off', 409, 'it was dropped meanwhile');
		const screen = await errands();
		await screen.getByLabelText(/Result/).fill('all good');
		await screen.getByRole('button', { name: 'Mark as done' }).click();
		await expect.element(screen.getByRole('alert')).toHaveTextContent('it was dropped meanwhile');
		await expect.element(screen.getByLabelText(/Result/)).toHaveValue('all good');
	});

	test('say that there are none, and where they come from', async () => {
		has([], [{ ...ERRAND, state: 'done', ended_at: ERRAND.made_at, message: 'proven' }]);
		const screen = await errands();
		await expect.element(screen.getByText(/is listed here when a rollout/)).toBeVisible();
		expect(screen.getByRole('link', { name: 'Print list' }).elements()).toEqual([]);
		await expect.element(screen.getByRole('region', { name: 'Recently ended' })).toHaveTextContent('proven');
	});
});

describe('the page of an errand', () => {
	test('shows the other errands of its room and the machine of its seat', async () => {
		const near = { ...ERRAND, id: 5, seat: 'pan-02', does: 'Replace a fan' };
		has([ERRAND, OTHER, near]);
		server.on('get', '/api/v1/errands/{number}', ERRAND);
		const facts = { cpu: { model: 'Ten cores' }, gpus: [], volumes: [], applications: [] };
		server.on('get', '/api/v1/seats/{name}', { facts, stores: [], flows: [], budget: null } as never);
		const screen = await visit('/errands/3');
		const aside = screen.getByRole('complementary', { name: 'pan-08 and its room' });
		await expect
			.element(aside.getByRole('link', { name: 'Replace a fan' }))
			.toHaveAttribute('href', '/errands/5');
		await expect.element(aside.getByRole('region', { name: 'Machine' })).toHaveTextContent('Ten cores');
		expect(aside.getByRole('link', { name: /Install driver|Attach a disk/ }).elements()).toEqual([]);
	});
});

describe('an errand in own words', () => {
	test('has a step on each line, without empty ones', async () => {
		server.on('get', '/api/v1/floor', { items: [], total: 0, seen: '' });
		server.on('post', '/api/v1/errands/by-hand', ERRAND as never);
		const screen = await errands();
		await screen.getByRole('button', { name: 'Create errand' }).click();
		await screen.getByLabelText('Seat').fill('pan-08');
		await screen.getByLabelText('Task').fill('Clean the fan');
		const give = screen.getByRole('button', { name: 'Create errand' });
		await screen.getByLabelText('Steps (one per line)').fill(' \n');
		await expect.element(give).toBeDisabled();
		await screen.getByLabelText('Steps (one per line)').fill('Switch it off\n\n  Brush it ');
		await give.click();
		await expect
			.poll(() => server.asked('post', '/api/v1/errands/by-hand')[0]?.body)
			.toEqual({
				seat: 'pan-08',
				does: 'Clean the fan',
				steps: ['Switch it off', 'Brush it'],
				bring: [],
				minutes: 10,
				note: ''
			});
		await expect.poll(() => screen.getByRole('dialog').elements()).toEqual([]);
	});
});
