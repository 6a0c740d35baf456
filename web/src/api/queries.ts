import { QueryClient } from '@tanstack/svelte-query';
import { Problem, api, data } from './client';

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

/** Every question that a view asks; the first part of the key is the topic that news refer to. */
export const ask = {
	seats: () => ({ queryKey: ['seat'], queryFn: () => data(api.GET('/api/v1/seats')) }),
	seat: (name: string, at = '') => ({
		queryKey: ['seat', name, at],
		queryFn: () =>
			data(api.GET('/api/v1/seats/{name}', { params: { path: { name }, query: at ? { at } : {} } }))
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
	findings: () => ({
		queryKey: ['seat', 'findings'],
		queryFn: () => data(api.GET('/api/v1/findings', { params: { query: { status: 'open', limit: 1000 } } }))
	}),
	round: () => ({ queryKey: ['seat', 'round'], queryFn: () => data(api.GET('/api/v1/round')) }),
	standard: () => ({ queryKey: ['standard'], queryFn: () => data(api.GET('/api/v1/standard')) }),
	dialects: () => ({ queryKey: ['dialect'], queryFn: () => data(api.GET('/api/v1/dialects')) }),
	editions: () => ({
		queryKey: ['standard', 'editions'],
		queryFn: () => data(api.GET('/api/v1/standard/editions'))
	}),
	rollouts: () => ({ queryKey: ['rollout'], queryFn: () => data(api.GET('/api/v1/rollouts')) }),
	rollout: (number: number) => ({
		queryKey: ['rollout', String(number)],
		queryFn: () => data(api.GET('/api/v1/rollouts/{number}', { params: { path: { number } } }))
	}),
	ledger: (offset: number) => ({
		queryKey: ['ledger', String(offset)],
		queryFn: () => data(api.GET('/api/v1/ledger', { params: { query: { offset, limit: 100 } } }))
	}),
	plan: (findings: number[]) => ({
		queryKey: ['plan', findings.join()],
		queryFn: () => data(api.POST('/api/v1/rollouts/plan', { body: { findings } })),
		gcTime: 0
	})
};
