<!-- What a signature under a delivery releases: shown in full before it is given, once. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import type { Schemas } from '../../../api/client';
	import { ask } from '../../../api/queries';
	import { storeWords } from '../../../model/stores/clearing';
	import { storage } from '../../../model/words/sizes';
	import type { Acts } from '../../../state/acts.svelte';
	import Ask from '../../ui/Ask.svelte';

	type Props = { row: Schemas['DeliveredOut']; acts: Acts; onclose: () => void };
	let { row, acts, onclose }: Props = $props();

	const release = createQuery(() => ask.deliveryRelease(row.id));

	async function sign(seen: string): Promise<void> {
		if (await acts.do(() => write.signDelivery({ id: row.id, seen }))) onclose();
	}
</script>

<section class="mt-2 border-l-2 border-hair pl-4" aria-label="Sign delivery of {row.project}">
	<Ask of={release}>
		{#snippet children(read)}
			<p>{read.sentence}</p>
			{#if read.warnings.length}
				<ul class="mt-1">
					{#each read.warnings as warning (warning)}<li class="text-sienna">{warning}</li>{/each}
				</ul>
			{/if}
			{#if read.stores.length}
				<table class="mt-2">
					<thead>
						<tr class="quiet text-left"
							><th class="pr-6 font-normal">Seat</th><th class="pr-6 font-normal">Store</th><th
								class="text-right font-normal">Size</th
							></tr
						>
					</thead>
					<tbody>
						{#each read.stores as store (`${store.seat} ${store.kind}`)}
							<tr class="border-t border-hair">
								<td class="pr-6">{store.seat}</td>
								<td class="pr-6">{storeWords(store)}</td>
								<td class="value text-right">{storage(store.size)}</td>
							</tr>
						{/each}
					</tbody>
				</table>
			{/if}
			<p class="mt-3 flex gap-3">
				<button class="do" disabled={acts.busy || !read.may_sign} onclick={() => sign(read.seen)}>
					Sign delivery
				</button>
				<button class="may" onclick={onclose}>Cancel</button>
			</p>
		{/snippet}
	</Ask>
</section>
