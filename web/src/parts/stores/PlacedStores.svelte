<!-- Each store with its current and its best volume, and the reason. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { purposeWords } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';

	type Props = { found: Schemas['PlacementOut'] };
	let { found }: Props = $props();

	/** `/fast (v1)` */
	function placeOf(id: string | null): string {
		const volume = found.volumes.find((known) => known.id === id);
		return volume ? `${volume.mount} (${volume.id})` : (id ?? 'not placed');
	}
</script>

<h2 class="mt-7 mb-1 text-lg">Reasons</h2>
<table class="w-full">
	<thead>
		<tr class="quiet text-left">
			<th scope="col">Store</th>
			<th scope="col" class="text-right">size</th>
			<th scope="col" class="pl-6">current volume</th>
			<th scope="col">best volume</th>
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
			<tr class="border-t border-hair"><td colspan="5" class="py-2">No stores found on this seat.</td></tr>
		{/each}
	</tbody>
</table>
