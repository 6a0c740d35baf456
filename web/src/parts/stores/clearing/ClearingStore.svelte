<!-- One store of a seat in a plan: its folder, what goes, what stays, what came of it; its items on demand. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { storeWords } from '../../../model/stores/clearing';
	import { moment } from '../../../model/words/moment';
	import { storage } from '../../../model/words/sizes';
	import Items from './Items.svelte';

	type Props = { plan: number; store: Schemas['StoreClearingOut'] };
	let { plan, store }: Props = $props();

	let open = $state(false);
	const count = (items: number): string => `${items.toLocaleString('en')} file${items === 1 ? '' : 's'}`;
	const fate = $derived(
		store.at_once
			? 'deleted at once and cannot be put back'
			: 'held for 24 hours and can be put back; then they are deleted'
	);
</script>

<li class="border-t border-hair py-1">
	<p>
		<span class="swatch {store.kind}"></span>
		{storeWords(store)}
		<span class="value">{store.folder}</span>
		<span class="quiet">{storage(store.size)}, {count(store.items)}</span>
	</p>
	{#if store.is_implausible}
		<p class="text-sienna">Implausible size: larger than its volume. Not included in the totals.</p>
	{/if}
	{#if store.trouble}
		<p class="quiet">Not scanned: {store.trouble}.</p>
	{:else if store.going}
		<p>
			{count(store.going)} ({storage(store.going_size)}) will be {fate}. Oldest last use: {store.oldest
				? moment(store.oldest)
				: 'unknown'}.
			<button class="anchor underline" aria-expanded={open} onclick={() => (open = !open)}>
				{open ? 'Hide files' : 'Show files'}
			</button>
		</p>
	{/if}
	{#if store.cleared}
		<p>
			{count(store.cleared.items)} ({storage(store.cleared.size)})
			{store.cleared.held_until ? `held until ${moment(store.cleared.held_until)}` : 'deleted'}.
			{#each store.cleared.reasons as reason (reason.why)}
				<span class="text-sienna">{count(reason.items)} kept: {reason.why}. </span>
			{/each}
		</p>
	{/if}
	{#if store.deleted}
		<p>
			{count(store.deleted.items)} ({storage(store.deleted.size)}) deleted {moment(store.deleted.at)}.
			{#if store.deleted.returned}<span class="text-sienna"
					>{count(store.deleted.returned)} changed while held and put back.
				</span>{/if}
			{#if store.deleted.staying}<span class="text-sienna"
					>{count(store.deleted.staying)} could not be put back and remain held: {store.deleted.reasons[0]
						?.why}.
				</span>{/if}
			{#if store.deleted.lost}<span class="text-oxblood"
					>{count(store.deleted.lost)} missing: found neither in the holding folder nor in the store.
				</span>{/if}
			{#if store.deleted.unrecorded}<span class="quiet"
					>The holding folder has {count(store.deleted.unrecorded)} from another source; they are kept.
				</span>{/if}
		</p>
	{/if}
	{#if store.failed}<p class="text-oxblood">{store.failed}</p>{/if}
	{#if store.put_back}<p>Put back: {store.put_back}.</p>{/if}
	{#if open}<Items {plan} {store} />{/if}
</li>
