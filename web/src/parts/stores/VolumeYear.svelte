<!-- A volume that was opened: its year, its stores, what grew. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { purposeWords } from '../../model/stores/bars';
	import { nameOf } from '../../model/words/names';
	import { storage } from '../../model/words/sizes';
	import Ask from '../ui/Ask.svelte';
	import SizePlot from './SizePlot.svelte';

	type Props = { seat: string; volume: string };
	let { seat, volume }: Props = $props();

	const year = createQuery(() => ask.volume(seat, volume));
	/** `frame cache of Corrow` */
	const storeWords = (purpose: string, app: string | null): string =>
		`${purposeWords(purpose)}${app ? ` of ${nameOf(app)}` : ''}`;
</script>

<Ask of={year}>
	{#snippet children(found)}
		<div class="mt-3 mb-2 grid grid-cols-1 gap-x-10 gap-y-4 lg:grid-cols-[minmax(0,1fr)_29rem]">
			<SizePlot volume={found} />
			<div>
				<table class="w-full">
					<thead
						><tr class="quiet text-left"
							><th scope="col">Store</th><th scope="col" class="text-right">holds</th><th
								scope="col"
								class="text-right">unused</th
							><th scope="col" class="text-right">grew in 30 days</th></tr
						></thead
					>
					<tbody>
						{#each found.stores as store (store.name)}
							<tr class="border-t border-hair">
								<td><span class="swatch {store.purpose}"></span> {storeWords(store.purpose, store.app)}</td>
								<td class="value whitespace-nowrap pl-3 text-right">{storage(store.size)}</td>
								<td class="value whitespace-nowrap pl-3 text-right"
									>{store.unused === null ? 'unknown' : storage(store.unused)}</td
								>
								<td class="value whitespace-nowrap pl-3 text-right"
									>{storage(found.grew.find((grown) => grown.store === store.name)?.bytes ?? 0)}</td
								>
							</tr>
						{:else}
							<tr class="border-t border-hair"
								><td colspan="4">No store that a dialect names lies here.</td></tr
							>
						{/each}
					</tbody>
				</table>
				<p class="mt-3 flex gap-3">
					<a class="may" href="/seats/{seat}">Look at the seat</a>
					<a class="may" href="/stores/clearings?seat={seat}">Plan a clearing</a>
					<a class="may" href="/stores/placement?seat={seat}">Where its stores lie best</a>
				</p>
			</div>
		</div>
	{/snippet}
</Ask>
