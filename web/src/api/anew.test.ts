import { QueryObserver } from '@tanstack/svelte-query';
import { afterEach, expect, it } from 'vitest';
import { readAnew, removing } from './anew';
import { queryClient } from './queries';

let asked: string[] = [];
let stops: (() => void)[] = [];

/** A view that shows a query, answered. */
function shows(...queryKey: (string | number)[]): Promise<void> {
	const queryFn = () => Promise.resolve(asked.push(queryKey.join('/')));
	const observer = new QueryObserver(queryClient, { queryKey, queryFn, staleTime: Infinity });
	return new Promise((answered) => {
		stops.push(observer.subscribe((result) => (result.isSuccess ? answered() : undefined)));
	});
}

afterEach(() => {
	for (const stop of stops) stop();
	queryClient.clear();
	[asked, stops] = [[], []];
});

it('asks no more for what is removed, nor for its parts, before the answer and after', async () => {
	await Promise.all([shows('timeline', 7), shows('timeline', 7, 'pan-03'), shows('timeline', 'list')]);
	asked = [];
	await removing(['timeline', 7], () => readAnew(['timeline']));
	await readAnew([]);
	expect(asked).toEqual(['timeline/list', 'timeline/list']);
});

it('asks again for what could not be removed', async () => {
	await shows('timeline', 8);
	asked = [];
	await expect(removing(['timeline', 8], () => Promise.reject(new Error('held')))).rejects.toThrow('held');
	await readAnew(['timeline']);
	expect(asked).toEqual(['timeline/8']);
});
