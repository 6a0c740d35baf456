import type { QueryKey } from '@tanstack/svelte-query';
import { queryClient } from './queries';

/** What is removed or on its way to be: a view that still shows it is about to be left, and must not ask for it. */
const removed = new Set<QueryKey>();

function isRemoved(key: QueryKey): boolean {
	return [...removed].some((start) => start.every((part, at) => key[at] === part));
}

/** Reads anew what is shown of a topic: the beginning of the keys of queries. */
export function readAnew(topic: QueryKey): Promise<void> {
	return queryClient.invalidateQueries({
		queryKey: topic,
		predicate: (query) => !isRemoved(query.queryKey)
	});
}

/** Removes what these keys begin with; news of it may come before the answer, and while its view is still drawn. */
export async function removing(key: QueryKey, work: () => Promise<unknown>): Promise<void> {
	removed.add(key);
	try {
		await work();
	} catch (refused) {
		removed.delete(key);
		throw refused;
	}
}
