<!-- The items that would go of a store: asked of the seat when somebody wants to read them, searched and sorted. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { onMount, untrack } from 'svelte';
	import { write } from '../../../api/actions';
	import type { Schemas } from '../../../api/client';
	import { ask } from '../../../api/queries';
	import { moment } from '../../../model/words/moment';
	import { storage } from '../../../model/words/sizes';
	import { Acts } from '../../../state/acts.svelte';
	import { session } from '../../../state/shell/session.svelte';
	import Ask from '../../ui/Ask.svelte';
	import Refused from '../../ui/Refused.svelte';

	type Props = { plan: number; store: Schemas['StoreClearingOut'] };
	let { plan, store }: Props = $props();

	const MANY = 100;
	const FURTHEST = 10_000; // whoever looks for one further down searches
	const SORTS = [
		['size', 'largest first'],
		['oldest', 'longest unused first'],
		['path', 'by path']
	] as const;
	const PAUSE_MS = 300; // after the last key, before a list of a million files is searched
	let typed = $state('');
	let search = $state('');
	let sort = $state<'size' | 'oldest' | 'path'>('size');
	let offset = $state(0);
	const acts = new Acts('clearing');
	const items = createQuery(() => ({
		...ask.clearingItems(plan, store.seat, store.place, { search, sort, offset }),
		placeholderData: keepPreviousData
	}));
	const count = (number: number): string => number.toLocaleString('en');
	const address = $derived(
		`/api/v1/clearings/${plan}/seats/${store.seat}/stores/${store.place}/items.ndjson`
	);

	$effect(() => {
		const wanted = typed;
		if (wanted === untrack(() => search)) return;
		const timer = setTimeout(() => ([search, offset] = [wanted, 0]), PAUSE_MS);
		return () => clearTimeout(timer);
	});

	onMount(async () => {
		const { data } = await items.refetch();
		if (data?.state === 'none' && session.may('correct'))
			await acts.do(() => write.askForList(plan, store.seat, store.place));
	});
</script>

<div class="my-2 border border-hair p-3">
	<Refused {acts} />
	<Ask of={items}>
		{#snippet children(list)}
			{#if list.state === 'refused'}
				<p class="text-oxblood">{list.message}</p>
			{:else if list.state !== 'whole'}
				<p role="status">
					{list.state === 'asked' || session.may('correct')
						? `Waiting for the list of ${store.seat}…`
						: 'A supervisor can request the list from the seat.'}
				</p>
			{:else}
				<div class="mb-2 flex flex-wrap items-center gap-3">
					<input
						class="field w-64"
						placeholder="part of a path"
						aria-label="Search files"
						maxlength="200"
						bind:value={typed}
					/>
					<select class="field w-64" aria-label="Order" bind:value={sort}>
						{#each SORTS as [value, words] (value)}<option {value}>{words}</option>{/each}
					</select>
					<span class="quiet"
						>{count(list.matching)} of {count(list.total)}{#if list.searched < list.total}, in the first
							{count(list.searched)}{/if}</span
					>
					<a class="anchor ml-auto underline" href={address} download>Complete list (NDJSON)</a>
				</div>
				<ul class="value">
					{#each list.items as item (item.path)}
						<li class="flex gap-4 border-t border-hair">
							<span class="min-w-0 flex-1 break-all">{item.path}</span>
							<span class="whitespace-nowrap">{storage(item.size)}</span>
							<span class="w-28 text-right whitespace-nowrap">{moment(item.used)}</span>
						</li>
					{/each}
				</ul>
				<p class="mt-2 flex gap-3">
					{#if offset}<button class="may" onclick={() => (offset -= MANY)}>Previous {MANY}</button>{/if}
					{#if offset + MANY < Math.min(list.matching, FURTHEST)}
						<button class="may" onclick={() => (offset += MANY)}>Next {MANY}</button>
					{/if}
				</p>
			{/if}
		{/snippet}
	</Ask>
</div>
