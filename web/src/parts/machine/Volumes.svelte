<!-- A seat's volumes: what fills each, how it goes on, and what can be done about it. -->
<script lang="ts">
	import type { Facts, Store } from '../../model/words/facts';
	import Tank from './Tank.svelte';

	type Props = {
		volumes: Facts['volumes'];
		stores: Store[];
		/** How each volume goes on, in words, by its id. */
		going: Record<string, string>;
		/** Of a seat whose stores can be planned. */
		seat?: string | undefined;
		onclear?: (() => void) | undefined;
	};
	let { volumes, stores, going, seat, onclear }: Props = $props();
</script>

<h3 class="mt-3">Volumes</h3>
{#each volumes ?? [] as volume (volume.id)}
	<Tank {volume} stores={stores.filter((store) => store.volume === volume.id)} />
	{#if going[volume.id]}<p class="text-sm">{going[volume.id]}.</p>{/if}
{:else}
	<p class="quiet">unknown</p>
{/each}
<p class="mt-2 flex flex-wrap gap-x-4 gap-y-1">
	{#if onclear}<button class="anchor underline" onclick={onclear}>Clean up a store…</button>{/if}
	{#if seat}
		<a class="anchor underline" href="/stores/clearings?seat={seat}">Plan clean-up</a>
		<a class="anchor underline" href="/stores/placement?seat={seat}">Plan store placement</a>
	{/if}
</p>
