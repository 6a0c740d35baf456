<!-- Clearing a store: what nobody used is listed by the seat, looked at here, and removed but what is kept. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { SvelteSet } from 'svelte/reactivity';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { nameOf } from '../../model/words/names';
	import { filesOf, storage } from '../../model/words/sizes';
	import { Acts } from '../../state/acts.svelte';
	import UnusedFiles from './UnusedFiles.svelte';
	import Ask from '../ui/Ask.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seat: string; onclose: () => void };
	let { seat, onclose }: Props = $props();

	let which = $state(0);
	let days = $state(30);
	let listing = $state('');
	let clearing = $state('');
	const acts = new Acts();
	const staying = new SvelteSet<string>();

	const stores = createQuery(() => ask.stores(seat));
	const looked = createQuery(() => ask.storeOrder(seat, listing));
	const cleared = createQuery(() => ask.storeOrder(seat, clearing));
	const found = $derived(looked.data?.listed);
	const going = $derived((found?.items ?? []).filter((item) => !staying.has(item.path)));
	const bytes = $derived(going.reduce((sum, item) => sum + item.size, 0));
	const told = (store: Schemas['ClearableOut']): string =>
		`${store.title}, ${nameOf(store.app)}` + (store.size === null ? '' : `: ${storage(store.size)}`);

	async function look(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const store = stores.data?.items[which];
		if (!store) return;
		staying.clear();
		[listing, clearing] = ['', ''];
		const wanted = { app: store.app, setting: store.setting, unused_days: days };
		await acts.do(async () => {
			listing = (await write.lookAtStore(seat, wanted)).order;
		});
	}

	async function clear(): Promise<void> {
		await acts.do(async () => {
			clearing = (await write.clearStore(seat, listing, [...staying])).order;
		});
	}

	function mark(path: string, goes: boolean): void {
		if (goes) staying.delete(path);
		else staying.add(path);
	}
</script>

<Sheet title="Clean up a store on {seat}" {onclose} wide>
	<Ask of={stores}>
		{#snippet children(all)}
			{#if all.items.length}
				<form class="mb-4 flex flex-wrap items-end gap-3" onsubmit={look}>
					<label class="grid gap-1">
						<span class="quiet">Store</span>
						<select class="field" bind:value={which}>
							{#each all.items as store, at (store.app + store.setting)}
								<option value={at}>{told(store)}</option>
							{/each}
						</select>
					</label>
					<label class="grid gap-1">
						<span class="quiet">Unused for</span>
						<span class="flex items-baseline gap-2">
							<input
								class="field w-24"
								type="number"
								min="1"
								max="3650"
								required
								bind:value={days}
							/>days</span
						>
					</label>
					<button class={found ? 'may' : 'do'}>{listing ? 'List again' : 'List unused files'}</button>
				</form>
			{:else}
				<p>
					This seat has no store that can be cleaned up. Only caches that the application recreates, in a
					folder of their own, can be.
				</p>
			{/if}
		{/snippet}
	</Ask>
	{#if listing && !looked.data?.told}
		<p role="status">Waiting for {seat} to list files…</p>
	{:else if looked.data && !found}
		<p class="text-oxblood" role="alert">{looked.data.message}</p>
	{:else if found}
		<UnusedFiles listing={found} {staying} fixed={clearing !== ''} onmark={mark} />
	{/if}
	<Refused {acts} class="mt-3" />
	{#if found?.items.length}
		<footer class="sticky -bottom-4 mt-4 -mb-4 flex items-center gap-3 border-t border-hair bg-paper py-3">
			{#if cleared.data?.told}
				<p role="status" data-cleared>{cleared.data.message}.</p>
			{:else if clearing}
				<p role="status">
					Waiting for {seat}: no files are deleted while the editor is working. See the ledger for the result.
				</p>
			{:else}
				<button class="do" disabled={!going.length} onclick={clear}
					>Delete {filesOf(going.length)} ({storage(bytes)})</button
				>
				<span class="quiet"
					>Each file is checked again first; files used since then are kept. Cannot be undone.</span
				>
			{/if}
		</footer>
	{/if}
</Sheet>
