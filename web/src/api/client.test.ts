import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { api, done, Problem } from './client';

type Fetch = (request: Request) => Promise<Response>;
let asked: Request[];
let fetch: Fetch;

function answers(status: number, body: unknown): void {
	const raw = typeof body === 'string' ? body : JSON.stringify(body);
	fetch = (request) => {
		asked.push(request);
		return Promise.resolve(new Response(raw, { status, headers: { 'content-type': 'application/json' } }));
	};
}

async function refusal(asking: Promise<unknown>): Promise<Problem> {
	const error: unknown = await asking.then(
		() => undefined,
		(fault: unknown) => fault
	);
	expect(error).toBeInstanceOf(Problem);
	return error as Problem;
}

const here = () => ({ baseUrl: 'http://here', fetch });
const survey = () =>
	api.POST('/api/v1/seats/{name}/survey', { ...here(), params: { path: { name: 'pan-03' } } });

beforeEach(() => {
	asked = [];
	vi.stubGlobal('document', { cookie: 'a=1; csrftoken=secret; b=2' });
});
afterEach(() => {
	vi.unstubAllGlobals();
});

it('shows the token that a browser needs to change something, and only then', async () => {
	answers(200, { order: 'o1' });
	await survey();
	await api.GET('/api/v1/rooms', here());
	expect(asked.map((request) => request.headers.get('X-CSRFToken'))).toEqual(['secret', null]);
});

it('tells a refusal as the server does', async () => {
	const fault = { message: 'unknown setting', path: 'layer[0]', line: 8, column: 11, expected: 'one' };
	answers(422, { title: 'Refused whole', detail: 'unknown setting', status: 422, faults: [fault] });
	const problem = await refusal(survey());
	expect([problem.status, problem.title, problem.message, problem.faults]).toEqual([
		422,
		'Refused whole',
		'unknown setting',
		[fault]
	]);
});

it('knows which folders an administrator has to admit', async () => {
	answers(409, { title: 'New folders', detail: 'no dialect named them', folders: ['maker/corrow/'] });
	expect((await refusal(survey())).folders).toEqual(['maker/corrow/']);
});

it('says something of an answer that is no document of ours', async () => {
	answers(502, '<html>Bad gateway</html>');
	const problem = await refusal(survey());
	expect([problem.status, problem.message, problem.faults]).toEqual([502, 'The server answered 502', []]);
});

it('says that the server cannot be reached', async () => {
	fetch = () => Promise.reject(new TypeError('failed'));
	const problem = await refusal(survey());
	expect([problem.status, problem.message]).toEqual([
		0,
		'the server is not responding; this page tries again automatically'
	]);
});

it('does not take for done what waits for a second person', async () => {
	answers(202, { proposal: 4 });
	const problem = await refusal(done(survey()));
	expect([problem.status, problem.title]).toEqual([202, 'Waiting for approval']);
});
