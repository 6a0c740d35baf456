import createClient, { type Middleware } from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schemas = components['schemas'];
export type Fault = Schemas['FaultOut'];

/** What the server refused, as its problem document (RFC 9457) tells it. */
export class Problem extends Error {
	constructor(
		readonly status: number,
		readonly title: string,
		readonly detail: string,
		readonly faults: Fault[],
		readonly folders: string[] = []
	) {
		super(detail || title);
	}
}

const WAITS = 202;
const TOLD_WAITS = 'a second person must approve this; it is listed on the Round until then';
const CHANGES = new Set(['POST', 'PUT', 'PATCH', 'DELETE']);

function cookie(name: string): string {
	const found = document.cookie.split('; ').find((pair) => pair.startsWith(`${name}=`));
	return found?.slice(name.length + 1) ?? '';
}

async function problemOf(response: Response): Promise<Problem> {
	const told = (await response.json().catch(() => ({}))) as Partial<Problem>;
	const title = told.title ?? `The server answered ${response.status}`;
	return new Problem(response.status, title, told.detail ?? '', told.faults ?? [], told.folders ?? []);
}

const manners: Middleware = {
	onRequest({ request }) {
		if (CHANGES.has(request.method)) request.headers.set('X-CSRFToken', cookie('csrftoken'));
		return request;
	},
	async onResponse({ response }) {
		if (!response.ok) throw await problemOf(response);
		if (response.status === WAITS) throw new Problem(WAITS, 'Waiting for approval', TOLD_WAITS, []);
		return response;
	},
	onError() {
		return new Problem(
			0,
			'No answer',
			'the server is not responding; this page tries again automatically',
			[]
		);
	}
};

export const api = createClient<paths>({ baseUrl: '', credentials: 'same-origin' });
api.use(manners);

/** The data of what was done; what waits for a second person was thrown already. */
export async function done<T>(answer: Promise<{ data?: T | Schemas['ProposedOut'] }>): Promise<T> {
	return (await answer).data as T;
}

/** The data of an answer; a refusal was thrown already. */
export async function data<T>(answer: Promise<{ data?: T }>): Promise<T> {
	return (await answer).data as T;
}
