/** A server for the whole interface in a page: a test says what it answers, and reads what it was asked. */
import { afterEach, beforeEach, expect, vi } from 'vitest';
import { render } from 'vitest-browser-svelte';
import type { Locator } from 'vitest/browser';
import type { paths } from '../api/schema';
import type { Schemas } from '../api/client';
import { timeZone } from '../model/words/zone';

type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';
type Json<T> = T extends { content: { 'application/json': infer Body } } ? Body : unknown;
type Answer<Path extends keyof paths, M extends Method> = paths[Path] extends {
	[key in M]: { responses: infer R };
}
	? R extends { 200: infer T }
		? Json<T>
		: unknown
	: never;
export type Asked = { method: string; path: string; query: URLSearchParams; body: unknown };
type Reply = { method: string; pattern: RegExp; status: number; give: (asked: Asked) => unknown };

/** The events of the server; a test sends them. */
class Events {
	static readonly CLOSED = 2;
	static open = new Set<Events>();
	readyState = 1;
	onopen?: () => void;
	onmessage?: (event: { data: string }) => void;
	onerror?: () => void;

	constructor() {
		Events.open.add(this);
	}
	close(): void {
		Events.open.delete(this);
	}
}

class Server {
	#replies: Reply[] = [];
	#asked: Asked[] = [];
	#unanswered: string[] = [];

	reset(): void {
		[this.#replies, this.#asked, this.#unanswered] = [[], [], []];
		Events.open.clear();
		this.on('get', '/api/v1/house/state', HOUSE);
		this.on('get', '/api/v1/proposals', { items: [], total: 0 });
	}

	/** Answers from now on; `body` may be worked out from what was asked. */
	on<M extends Method, Path extends keyof paths>(
		method: M,
		path: Path,
		body: Answer<Path, M> | ((asked: Asked) => Answer<Path, M>)
	): void {
		const give = typeof body === 'function' ? (body as (asked: Asked) => unknown) : () => body;
		this.#replies.unshift({ method, pattern: patternOf(path), status: 200, give });
	}

	/** Refuses from now on, with a problem document. */
	refuse(method: Method, path: keyof paths, status: number, detail: string, title = 'Refused'): void {
		const give = () => ({ title, detail, status, faults: [] });
		this.#replies.unshift({ method, pattern: patternOf(path), status, give });
	}

	/** What was asked of a path, the first one first. */
	asked(method: Method, path: keyof paths): Asked[] {
		const pattern = patternOf(path);
		return this.#asked.filter((one) => one.method === method && pattern.test(one.path));
	}

	/** News, as the stream of events has them. */
	tell(topic: string, id = ''): void {
		for (const source of Events.open) source.onmessage?.({ data: JSON.stringify({ topic, id }) });
	}

	/** What the interface asked and no test answered. */
	get unanswered(): string[] {
		return this.#unanswered;
	}

	async answer(request: Request): Promise<Response> {
		const { pathname, searchParams } = new URL(request.url);
		const text = await request.clone().text();
		const asked: Asked = {
			method: request.method.toLowerCase(),
			path: decodeURIComponent(pathname),
			query: searchParams,
			body: text && request.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text
		};
		this.#asked.push(asked);
		const reply = this.#replies.find((one) => one.method === asked.method && one.pattern.test(asked.path));
		if (!reply) this.#unanswered.push(`${asked.method} ${asked.path}`);
		const [status, body] = reply ? [reply.status, reply.give(asked)] : [404, { title: 'No such thing' }];
		const headers = { 'content-type': 'application/json' };
		return new Response(JSON.stringify(body ?? null), { status, headers });
	}
}

function patternOf(path: keyof paths): RegExp {
	const numbers = path.replace(/\{(number|run|place)\}/g, '\\d+');
	return new RegExp(`^${numbers.replace(/\{\w+\}/g, '[^/]+')}$`);
}

const HOUSE: Schemas['StateOut'] = {
	proposals: 0,
	stands_still: [],
	worker_heard_at: '2026-11-30T09:00:00Z',
	worker_silent: false
};
const SEES = ['see seats', 'see the house', 'look after your account'];
const MAY = {
	viewer: SEES,
	editor: ['see seats', 'answer for a seat', 'look after your account'],
	assistant: [...SEES, 'bring readings', 'run errands'],
	supervisor: [
		...SEES,
		...['correct', 'publish', 'waive', 'enrol', 'bring readings', 'run errands', 'answer for a seat']
	],
	administrator: [
		...SEES,
		...['correct', 'publish', 'waive', 'enrol', 'bring readings', 'run errands', 'answer for a seat'],
		...['manage people', 'move the house']
	]
};
export type Role = keyof typeof MAY;

export const server = new Server();
const network = globalThis.fetch;
vi.stubGlobal('EventSource', Events);
vi.stubGlobal('fetch', (input: RequestInfo | URL, init?: RequestInit) => {
	const request = new Request(input, init);
	return new URL(request.url).pathname.startsWith('/api/')
		? server.answer(request)
		: network(input as RequestInfo, init);
});
// Whoever fetches keeps what `fetch` was when it was imported.
const { default: App } = await import('../App.svelte');
const { queryClient } = await import('../api/queries');
const { session } = await import('../state/shell/session.svelte');

/** In a file whose tests show the whole interface: each begins with a server that knows nothing, and asks it no more
 * than the test has answers for. */
export function withServer(): void {
	beforeEach(() => {
		server.reset();
		queryClient.clear();
	});
	afterEach(() => {
		expect(server.unanswered).toEqual([]);
	});
}

/** The session of somebody of a role; nobody's where there is none. */
export function whoIs(role: Role | null, seat: string | null = null): Schemas['SessionOut'] {
	return { name: role && `the ${role}`, role, seat, may: role ? MAY[role] : [], time_zone: timeZone() };
}

/** Shows an address to somebody of a role, as the browser does after it was opened. */
export function visit(address: string, role: Role | null = 'supervisor', seat: string | null = null) {
	server.on('get', '/api/v1/session', whoIs(role, seat));
	return open(address);
}

/** Shows an address to whoever the server says is signed in. */
export async function open(address: string) {
	history.replaceState(null, '', address);
	dispatchEvent(new PopStateEvent('popstate'));
	await session.load();
	return render(App);
}

/** The texts of the buttons within a part of the page, in their order. */
export function buttonsOf(part: Locator): (string | undefined)[] {
	return part
		.getByRole('button')
		.elements()
		.map((button) => button.textContent?.trim());
}
