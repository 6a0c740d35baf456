<!-- The volumes of the house: those that need a decision with their year and forecast, the others on request. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import VolumeTable from '../../parts/stores/VolumeTable.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const volumes = createQuery(ask.volumes);
</script>

<svelte:head><title>Stores · Normant</title></svelte:head>
<div class="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-2">
	<div class="min-w-0 flex-1">
		<h1 class="text-2xl">{volumes.data?.total ? volumes.data.sentence : 'Stores'}</h1>
		{#if volumes.data?.total}
			<p class="quiet">{volumes.data.total} volumes on {volumes.data.seats} seats</p>
		{/if}
	</div>
	<a class="anchor underline" href="/stores/care">Automatic clean-up</a>
	<a class="anchor underline" href="/stores/deliveries">Deliveries</a>
	<a class="anchor underline" href="/stores/projects">Projects</a>
	<a class="anchor underline" href="/stores/placement">Placement</a>
	<a class="may" href="/stores/clearings">Plan clean-up</a>
</div>
<Ask of={volumes}>
	{#snippet children(list)}
		{#if !list.total}
			<p>No volumes yet. They appear within a minute after the first survey of a seat.</p>
		{:else}
			<VolumeTable volumes={list.items} />
		{/if}
		{#if list.items.length < list.total}
			<p class="quiet">The {list.items.length} volumes that fill up first, of {list.total}.</p>
		{/if}
	{/snippet}
</Ask>
