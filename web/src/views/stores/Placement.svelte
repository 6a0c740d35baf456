<!-- Where the stores of a seat would lie best, what that mends, and the moves in their order. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { heardOf } from '../../model/house/rooms';
	import { storage } from '../../model/words/sizes';
	import { route } from '../../state/shell/route.svelte';
	import PlacedStores from '../../parts/stores/PlacedStores.svelte';
	import StoreMoves from '../../parts/stores/StoreMoves.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const floor = createQuery(ask.floor);
	const seats = $derived(heardOf(floor.data?.items ?? []).map(({ name }) => name));
	const seat = $derived(route.query.get('seat') ?? seats[0] ?? '');
	const placement = createQuery(() => ask.placement(seat));
</script>

<svelte:head><title>Placement · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · placement</p>
<h1 class="mb-3 text-2xl">Where the stores of {seat} lie best</h1>
<label class="mb-5 grid w-fit gap-1">
	Seat
	<select
		class="field w-40"
		value={seat}
		onchange={(event) => route.filter('seat', event.currentTarget.value)}
	>
		{#each seats as name (name)}<option>{name}</option>{/each}
	</select>
</label>
<Ask of={placement}>
	{#snippet children(found)}
		<PlacedStores {found} />
		{#if found.impossible}
			<p class="mt-4 text-sienna">{found.impossible}.</p>
			{#if found.disk}<p>A disk of at least {storage(found.disk)}, ssd or better, would be enough.</p>{/if}
		{:else if found.moves.length}
			<StoreMoves moves={found.moves} volumes={found.volumes} />
		{:else if found.stores.length}
			<p class="mt-4">Every store lies where it lies best.</p>
		{/if}
	{/snippet}
</Ask>
