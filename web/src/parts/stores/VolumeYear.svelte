<!-- A volume that was opened: its year, its stores, what grew. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { purposeWords, agesOf, unusedFor, type VolumeStore } from '../../model/stores/bars';
	import { dayOfMonth } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import { storage } from '../../model/words/sizes';
	import Ask from '../ui/Ask.svelte';
	import SizePlot from './SizePlot.svelte';

	type Props = { seat: string; volume: string };
	let { seat, volume }: Props = $props();

	const cell = 'value whitespace-nowrap pl-3 text-right';
	const year = createQuery(() => ask.volume(seat, volume));
	const ages = $derived(agesOf(year.data?.stores ?? []));
	/** `frame cache of Corrow` */
	const storeWords = (purpose: string, app: string | null): string =>
		`${app ? `${nameOf(app)} ` : ''}${purposeWords(purpose)}`;
</script>

{#snippet holds(store: VolumeStore, grown: number)}
	<tr class="border-t border-hair">
		<td
			><span class="swatch {store.purpose}"></span>
			{storeWords(store.purpose, store.app)}{#if store.limit}<br /><span class="quiet">{store.limit}</span
				>{/if}</td
		>
		<td class={cell}>{storage(store.size)}</td>
		<td class={cell}>{storage(grown)}</td>
		{#each ages as days (days)}
			<td class={cell}>{unusedFor(store, days)}</td>
		{/each}
		<td class={cell}>{store.oldest ? dayOfMonth(new Date(store.oldest)) : 'unknown'}</td>
		<td class="quiet pl-5">{store.stays}</td>
	</tr>
{/snippet}

<Ask of={year}>
	{#snippet children(found)}
		<div class="mt-3 mb-2">
			<SizePlot volume={found} />
			<div class="mt-3 overflow-x-auto">
				<table class="w-full">
					<thead
						><tr class="quiet text-left"
							><th scope="col">Store</th><th scope="col" class="text-right">size</th><th
								scope="col"
								class="text-right">grew in 30 days</th
							>{#each ages as days, place (days)}<th scope="col" class="pl-3 text-right"
									>{place ? '' : 'unused for '}{days} days</th
								>{/each}<th scope="col" class="pl-3 text-right">oldest</th><th scope="col" class="pl-5"
								>always kept</th
							></tr
						></thead
					>
					<tbody>
						{#each found.stores as store (store.name)}
							{@render holds(store, found.grew.find((grown) => grown.store === store.name)?.bytes ?? 0)}
						{:else}
							<tr class="border-t border-hair"
								><td colspan={5 + ages.length}>No known stores on this volume.</td></tr
							>
						{/each}
					</tbody>
				</table>
			</div>
			<p class="mt-3 flex gap-3">
				<a class="may" href="/seats/{seat}">Open seat</a>
				<a class="may" href="/stores/clearings?seat={seat}">Plan clean-up</a>
				<a class="may" href="/stores/placement?seat={seat}">Plan store placement</a>
			</p>
		</div>
	{/snippet}
</Ask>
