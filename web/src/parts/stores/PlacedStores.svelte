<!-- Each store, where it lies and where it would lie best; what is amiss now, and what would be then. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { purposeWords } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';

	type Props = { found: Schemas['PlacementOut'] };
	let { found }: Props = $props();

	/** `/fast (v1)` */
	function placeOf(id: string | null): string {
		const volume = found.volumes.find((known) => known.id === id);
		return volume ? `${volume.mount} (${volume.id})` : (id ?? 'nowhere yet');
	}
	const amiss = $derived(
		[
			{ title: 'Amiss now', sentences: found.amiss_now },
			{ title: 'Amiss then', sentences: found.impossible ? [] : found.amiss_then }
		].filter(({ sentences }) => sentences.length)
	);
</script>

<table class="w-full max-w-[70rem]">
	<thead>
		<tr class="quiet text-left">
			<th scope="col">Store</th>
			<th scope="col" class="text-right">holds</th>
			<th scope="col" class="pl-6">lies on</th>
			<th scope="col">lies best on</th>
			<th scope="col">because</th>
		</tr>
	</thead>
	<tbody>
		{#each found.stores as store (store.name)}
			<tr class="border-t border-hair">
				<td class="py-1.5 font-semibold">{purposeWords(store.name)}</td>
				<td class="value text-right whitespace-nowrap">{storage(store.size)}</td>
				<td class="value pl-6">{placeOf(store.now)}</td>
				<td class="value" class:text-kelp={store.best !== store.now}
					>{store.best ? placeOf(store.best) : '—'}</td
				>
				<td class="quiet">{store.why}</td>
			</tr>
		{:else}
			<tr class="border-t border-hair"><td colspan="5" class="py-2">This seat tells of no store.</td></tr>
		{/each}
	</tbody>
</table>
{#each amiss as { title, sentences } (title)}
	<h2 class="mt-4 mb-1 text-lg">{title}</h2>
	<ul class="list-disc pl-5">
		{#each sentences as sentence, place (place)}<li>{purposeWords(sentence)}</li>{/each}
	</ul>
{/each}
