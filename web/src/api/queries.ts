import { QueryClient } from '@tanstack/svelte-query';
import { Problem, api, data, type Schemas } from './client';

const RETRIES = 3;

export const queryClient = new QueryClient({
	defaultOptions: {
		queries: {
			staleTime: 60_000,
			refetchInterval: 20_000,
			retry: (count, error) => count < RETRIES && !(error instanceof Problem && error.status >= 400),
			retryDelay: 1000
		}
	}
});

const STATE_MS = 20_000; // a worker that is silent sends no news of it

/** Every question that a view asks; the first part of the key is the topic that news refer to. */
export const ask = {
	houseState: () => ({
		queryKey: ['proposal', 'state'],
		queryFn: () => data(api.GET('/api/v1/house/state')),
		refetchInterval: STATE_MS
	}),
	proposals: () => ({
		queryKey: ['proposal', 'list'],
		queryFn: () => data(api.GET('/api/v1/proposals'))
	}),
	ledgerHead: () => ({
		queryKey: ['ledger', 'head'],
		queryFn: () => data(api.GET('/api/v1/ledger/head')),
		retry: false
	}),
	clearings: () => ({
		queryKey: ['clearing', 'list'],
		queryFn: () => data(api.GET('/api/v1/clearings'))
	}),
	clearing: (number: number) => ({
		queryKey: ['clearing', number],
		queryFn: () => data(api.GET('/api/v1/clearings/{number}', { params: { path: { number } } }))
	}),
	clearingStores: (number: number) => ({
		queryKey: ['clearing', number, 'stores'],
		queryFn: () =>
			data(
				api.GET('/api/v1/clearings/{number}/stores', {
					params: { path: { number }, query: { limit: 1000 } }
				})
			)
	}),
	clearingItems: (
		number: number,
		name: string,
		place: number,
		query: { search: string; sort: 'listed' | 'size' | 'oldest' | 'path'; offset: number }
	) => ({
		queryKey: ['clearing', number, 'items', name, place, JSON.stringify(query)],
		queryFn: () =>
			data(
				api.GET('/api/v1/clearings/{number}/seats/{name}/stores/{place}/items', {
					params: { path: { number, name, place }, query: { ...query, limit: 100 } }
				})
			)
	}),
	standingCare: () => ({
		queryKey: ['care', 'list'],
		queryFn: () => data(api.GET('/api/v1/standing-care'))
	}),
	careImpact: (text: string) => ({
		queryKey: ['standard', 'care', text],
		queryFn: () => data(api.POST('/api/v1/standing-care/impact', { body: { text } })),
		enabled: text.includes('[[layer.care]]'),
		retry: false as const,
		gcTime: 0
	}),
	/** How far a scan of projects is; asked again until it has finished. */
	projectScan: (order: string) => ({
		queryKey: ['project', 'scan', order],
		queryFn: () => data(api.GET('/api/v1/projects/scans/{order}', { params: { path: { order } } })),
		enabled: order !== ''
	}),
	projects: () => ({
		queryKey: ['project', 'list'],
		queryFn: () => data(api.GET('/api/v1/projects', { params: { query: { limit: 500 } } }))
	}),
	project: (number: number) => ({
		queryKey: ['project', number],
		queryFn: () => data(api.GET('/api/v1/projects/{number}', { params: { path: { number } } }))
	}),
	nightly: () => ({
		queryKey: ['project', 'nightly'],
		queryFn: () => data(api.GET('/api/v1/projects/nightly'))
	}),
	seatProjects: (name: string) => ({
		queryKey: ['seat', name, 'projects'],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/projects', { params: { path: { name } } }))
	}),
	deliveries: () => ({
		queryKey: ['delivery', 'list'],
		queryFn: () => data(api.GET('/api/v1/deliveries', { params: { query: { limit: 500 } } }))
	}),
	deliveryRelease: (number: number) => ({
		queryKey: ['delivery', 'release', number],
		queryFn: () => data(api.GET('/api/v1/deliveries/{number}/release', { params: { path: { number } } }))
	}),
	productions: () => ({
		queryKey: ['delivery', 'productions'],
		queryFn: () => data(api.GET('/api/v1/productions'))
	}),
	trials: () => ({ queryKey: ['trial', 'list'], queryFn: () => data(api.GET('/api/v1/trials')) }),
	trial: (number: number) => ({
		queryKey: ['trial', number],
		queryFn: () => data(api.GET('/api/v1/trials/{number}', { params: { path: { number } } }))
	}),
	run: (number: number, run: number) => ({
		queryKey: ['trial', number, 'run', run],
		queryFn: () => data(api.GET('/api/v1/trials/{number}/runs/{run}', { params: { path: { number, run } } })),
		enabled: run > 0,
		staleTime: Infinity
	}),
	triable: (seats: string[]) => ({
		queryKey: ['seat', 'triable', seats.join()],
		queryFn: () => data(api.GET('/api/v1/triable', { params: { query: { seat: seats } } })),
		enabled: seats.length > 0
	}),
	lookAtTrial: (body: Schemas['TrialIn'] | null) => ({
		queryKey: ['seat', 'look at trial', JSON.stringify(body)],
		queryFn: () => data(api.POST('/api/v1/trials/look', { body: body as Schemas['TrialIn'] })),
		enabled: body !== null,
		refetchInterval: false as const,
		retry: false
	}),
	memory: (name: string, query: Record<string, string | number>) => ({
		queryKey: ['seat', name, 'memory', JSON.stringify(query)],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/memory', { params: { path: { name }, query } })),
		enabled: name !== ''
	}),
	ready: (name: string) => ({
		queryKey: ['seat', name, 'ready'],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/ready', { params: { path: { name } } }))
	}),
	routes: (needed: number, hours: number) => ({
		queryKey: ['trial', 'routes', needed, hours],
		queryFn: () => data(api.GET('/api/v1/routes', { params: { query: { needed, hours } } }))
	}),
	evidence: () => ({ queryKey: ['trial', 'evidence'], queryFn: () => data(api.GET('/api/v1/evidence')) }),
	sheet: (number: number, seat: string) => ({
		queryKey: ['trial', number, 'sheet', seat],
		queryFn: () =>
			data(api.GET('/api/v1/trials/{number}/sheet/{seat}', { params: { path: { number, seat } } }))
	}),
	timelines: () => ({ queryKey: ['timeline', 'list'], queryFn: () => data(api.GET('/api/v1/timelines')) }),
	timeline: (number: number) => ({
		queryKey: ['timeline', number],
		queryFn: () => data(api.GET('/api/v1/timelines/{number}', { params: { path: { number } } }))
	}),
	timelineOn: (number: number, name: string) => ({
		queryKey: ['timeline', number, name],
		queryFn: () =>
			data(api.GET('/api/v1/timelines/{number}/seats/{name}', { params: { path: { number, name } } }))
	}),
	effects: () => ({ queryKey: ['timeline', 'effects'], queryFn: () => data(api.GET('/api/v1/effects')) }),
	clips: () => ({ queryKey: ['clip'], queryFn: () => data(api.GET('/api/v1/clips')) }),
	people: () => ({ queryKey: ['people'], queryFn: () => data(api.GET('/api/v1/people')) }),
	account: () => ({ queryKey: ['account'], queryFn: () => data(api.GET('/api/v1/account')) }),
	floor: () => ({
		queryKey: ['seat', 'floor'],
		queryFn: () => data(api.GET('/api/v1/floor')),
		structuralSharing: false as const // ten thousand seats are sooner drawn than compared
	}),
	levels: (names: string[]) => ({
		queryKey: ['seat', 'levels', names.join()],
		queryFn: () => data(api.GET('/api/v1/seats', { params: { query: { name: names } } })),
		enabled: names.length > 0
	}),
	seat: (name: string, at = '') => ({
		queryKey: ['seat', name, at],
		queryFn: () =>
			data(api.GET('/api/v1/seats/{name}', { params: { path: { name }, query: at ? { at } : {} } }))
	}),
	stores: (name: string) => ({
		queryKey: ['seat', name, 'stores'],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/stores', { params: { path: { name } } }))
	}),
	/** What came of an order about a store; asked again and again until the seat has answered. */
	storeOrder: (name: string, order: string) => ({
		queryKey: ['seat', name, 'stores', order],
		queryFn: () =>
			data(api.GET('/api/v1/seats/{name}/stores/{order}', { params: { path: { name, order } } })),
		enabled: order !== ''
	}),
	volumes: () => ({
		queryKey: ['volume', 'list'],
		queryFn: () => data(api.GET('/api/v1/volumes', { params: { query: { limit: 400 } } }))
	}),
	volumesOf: (seat: string) => ({
		queryKey: ['volume', 'of', seat],
		queryFn: () => data(api.GET('/api/v1/volumes', { params: { query: { seat } } }))
	}),
	volume: (name: string, volume: string) => ({
		queryKey: ['volume', name, volume],
		queryFn: () =>
			data(api.GET('/api/v1/seats/{name}/volumes/{volume}', { params: { path: { name, volume } } }))
	}),
	arranged: (seat: string, on: Record<string, string>) => ({
		queryKey: ['seat', seat, 'placement', JSON.stringify(on)],
		queryFn: () =>
			data(api.POST('/api/v1/seats/{name}/placement', { params: { path: { name: seat } }, body: { on } })),
		enabled: seat !== '' && Object.keys(on).length > 0,
		gcTime: 0
	}),
	placement: (name: string) => ({
		queryKey: ['seat', name, 'placement'],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/placement', { params: { path: { name } } })),
		enabled: name !== ''
	}),
	exports: (name: string) => ({
		queryKey: ['seat', name, 'exports'],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/exports', { params: { path: { name } } }))
	}),
	changes: (name: string) => ({
		queryKey: ['seat', name, 'changes'],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/changes', { params: { path: { name } } }))
	}),
	compare: (name: string, beside: { other?: string; at?: string; other_at?: string }) => ({
		queryKey: ['seat', name, 'compare', JSON.stringify(beside)],
		queryFn: () =>
			data(api.GET('/api/v1/seats/{name}/compare', { params: { path: { name }, query: beside } }))
	}),
	catalogue: () => ({
		queryKey: ['catalogue'],
		queryFn: () => data(api.GET('/api/v1/catalogue')),
		staleTime: Infinity,
		refetchInterval: false as const
	}),
	classes: () => ({
		queryKey: ['seat', 'classes'],
		queryFn: () => data(api.GET('/api/v1/register/classes'))
	}),
	round: () => ({ queryKey: ['seat', 'round'], queryFn: () => data(api.GET('/api/v1/round')) }),
	standard: () => ({ queryKey: ['standard'], queryFn: () => data(api.GET('/api/v1/standard')) }),
	contradicted: () => ({
		queryKey: ['standard', 'contradicted'],
		queryFn: () => data(api.GET('/api/v1/standard/contradicted'))
	}),
	drafts: () => ({
		queryKey: ['standard', 'drafts'],
		queryFn: () => data(api.GET('/api/v1/standard/drafts'))
	}),
	changedIn: (number: number) => ({
		queryKey: ['standard', 'changes', String(number)],
		queryFn: () =>
			data(api.GET('/api/v1/standard/editions/{number}/changes', { params: { path: { number } } }))
	}),
	doubts: (text: string) => ({
		queryKey: ['standard', 'doubts', text],
		queryFn: () => data(api.POST('/api/v1/standard/lint', { body: { text } })),
		enabled: text !== '',
		retry: false as const,
		gcTime: 0
	}),
	norms: (text: string, seat: string) => ({
		queryKey: ['standard', 'norms', text, seat],
		queryFn: () => data(api.POST('/api/v1/standard/norms', { body: { text, seat } })),
		enabled: text !== '' && seat !== '',
		retry: false as const,
		gcTime: 0
	}),
	words: () => ({
		queryKey: ['words'],
		queryFn: () => data(api.GET('/api/v1/standard/words')),
		staleTime: Infinity,
		refetchInterval: false as const
	}),
	dialects: () => ({ queryKey: ['dialect'], queryFn: () => data(api.GET('/api/v1/dialects')) }),
	editions: () => ({
		queryKey: ['standard', 'editions'],
		queryFn: () => data(api.GET('/api/v1/standard/editions'))
	}),
	rollouts: () => ({ queryKey: ['rollout'], queryFn: () => data(api.GET('/api/v1/rollouts')) }),
	ofRound: (title: string) => ({
		queryKey: ['finding', 'round', title],
		queryFn: () => read.ofRound(title),
		enabled: title !== ''
	}),
	rollout: (number: number) => ({
		queryKey: ['rollout', String(number)],
		queryFn: () => data(api.GET('/api/v1/rollouts/{number}', { params: { path: { number } } }))
	}),
	stayed: (rollout?: number) => ({
		queryKey: ['rollout', 'stayed', String(rollout ?? '')],
		queryFn: () =>
			data(api.GET('/api/v1/stayed', { params: { query: rollout === undefined ? {} : { rollout } } }))
	}),
	draftPlan: (text: string, terms: Schemas['TermsIn']) => ({
		queryKey: ['standard', 'plan', text, JSON.stringify(terms)],
		queryFn: () => data(api.POST('/api/v1/plans/draft', { body: { text, terms } })),
		refetchInterval: false as const
	}),
	rehearsal: (number: number) => ({
		queryKey: ['rollout', 'rehearsal', String(number)],
		queryFn: () => data(api.GET('/api/v1/rehearsals/{number}', { params: { path: { number } } }))
	}),
	plans: () => ({ queryKey: ['rollout', 'plans'], queryFn: () => data(api.GET('/api/v1/plans')) }),
	packages: () => ({
		queryKey: ['standard', 'packages'],
		queryFn: () => data(api.GET('/api/v1/packages'))
	}),
	rooms: () => ({ queryKey: ['rollout', 'rooms'], queryFn: () => data(api.GET('/api/v1/rooms')) }),
	errands: () => ({ queryKey: ['errand'], queryFn: () => data(api.GET('/api/v1/errands')) }),
	errand: (number: number) => ({
		queryKey: ['errand', String(number)],
		queryFn: () => data(api.GET('/api/v1/errands/{number}', { params: { path: { number } } }))
	}),
	mine: (seat: string) => ({
		queryKey: ['rollout', 'mine', seat],
		queryFn: () => data(api.GET('/api/v1/seats/{name}/planned', { params: { path: { name: seat } } })),
		refetchInterval: 5000 // editors hear of their seat's surveys alone: of a rollout they ask
	}),
	plannedOn: (number: number, seat: string) => ({
		queryKey: ['rollout plan', String(number), seat],
		queryFn: () =>
			data(api.GET('/api/v1/rollouts/{number}/seats/{name}', { params: { path: { number, name: seat } } })),
		staleTime: Infinity,
		refetchInterval: false as const
	}),
	drift: (at: string) => ({
		queryKey: ['seat', 'drift', at],
		queryFn: () => data(api.GET('/api/v1/drift', { params: { query: at ? { at } : {} } })),
		structuralSharing: false as const
	}),
	cell: (of: { seat: string; setting: string; app: string | null } | undefined, at: string) => ({
		queryKey: ['seat', 'cell', JSON.stringify(of), at],
		queryFn: () =>
			data(
				api.GET('/api/v1/drift/cell', {
					params: { query: { ...(of ?? { seat: '', setting: '' }), ...(at ? { at } : {}) } }
				})
			),
		enabled: of !== undefined,
		retry: false as const
	}),
	covered: (scope: Schemas['ScopeIn']) => ({
		queryKey: ['waiver', 'covered', JSON.stringify(scope)],
		queryFn: () => data(api.POST('/api/v1/waivers/try', { body: scope })),
		gcTime: 0
	}),
	calendar: () => ({
		queryKey: ['calendar'],
		queryFn: () => data(api.GET('/api/v1/calendar')),
		staleTime: Infinity,
		refetchInterval: false as const
	}),
	templates: () => ({
		queryKey: ['standard', 'templates'],
		queryFn: () => data(api.GET('/api/v1/templates'))
	}),
	notices: () => ({
		queryKey: ['notice'],
		queryFn: () => data(api.GET('/api/v1/notices', { params: { query: { limit: 50 } } }))
	}),
	noticeChoice: () => ({
		queryKey: ['notice', 'choice'],
		queryFn: () => data(api.GET('/api/v1/notices/choice'))
	}),
	waivers: () => ({
		queryKey: ['waiver'],
		queryFn: () => data(api.GET('/api/v1/waivers', { params: { query: { limit: 1000 } } }))
	}),
	ledger: (offset: number, wanted: { actor: string; action: string; seat: string; day: string }) => ({
		queryKey: ['ledger', String(offset), ...Object.values(wanted)],
		queryFn: () => {
			const chosen = Object.fromEntries(Object.entries(wanted).filter(([, value]) => value));
			return data(api.GET('/api/v1/ledger', { params: { query: { offset, limit: 100, ...chosen } } }));
		}
	}),
	ledgerNames: () => ({
		queryKey: ['ledger', 'names'],
		queryFn: () => data(api.GET('/api/v1/ledger/names'))
	}),
	plan: (findings: number[], terms: Schemas['TermsIn']) => ({
		queryKey: ['plan', findings.join(), JSON.stringify(terms)],
		queryFn: () => data(api.POST('/api/v1/rollouts/plan', { body: { findings, terms } })),
		gcTime: 0
	})
};

const SEATS_AT_ONCE = 100;
const LONGEST_PAGE = 1000;

/** Every open finding of these seats, however many there are. */
export async function everyFinding(seats: readonly string[]): Promise<Schemas['FindingOut'][]> {
	const found: Schemas['FindingOut'][] = [];
	for (let first = 0; first < seats.length; first += SEATS_AT_ONCE) {
		const seat = seats.slice(first, first + SEATS_AT_ONCE);
		let total = Infinity;
		for (let offset = 0; offset < total; offset += LONGEST_PAGE) {
			const query = { status: 'open' as const, waived: false, seat, offset, limit: LONGEST_PAGE };
			const page = await data(api.GET('/api/v1/findings', { params: { query } }));
			found.push(...page.items);
			total = page.total;
		}
	}
	return found;
}

/** What is read once, because somebody asked for it at this moment. */
export const read = {
	ofRound: (title: string) =>
		data(api.GET('/api/v1/round/findings', { params: { query: title ? { title } : {} } })),
	keptPlan: (number: number) => data(api.GET('/api/v1/plans/{number}', { params: { path: { number } } })),
	planAgain: (number: number) =>
		data(api.GET('/api/v1/rollouts/{number}/again', { params: { path: { number } } })),
	starter: () => data(api.GET('/api/v1/standard/starter')),
	edition: (number: number) =>
		data(api.GET('/api/v1/standard/editions/{number}', { params: { path: { number } } })),
	draft: (number: number) =>
		data(api.GET('/api/v1/standard/drafts/{number}', { params: { path: { number } } }))
};
