<!-- The volumes of the house: those that fill, the soonest first, then the others in their rooms. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { PURPOSES, purposeWords, roomsOfVolumes } from '../../model/stores/bars';
	import RoomOfVolumes from '../../parts/stores/RoomOfVolumes.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const volumes = createQuery(ask.volumes);
	const LEGEND = [
		...PURPOSES.map((purpose) => [purpose, purposeWords(purpose)]),
		['rest', 'everything else']
	];
</script>

<svelte:head><title>Stores · Normant</title></svelte:head>
<div class="mb-2 flex flex-wrap items-baseline gap-x-5 gap-y-2">
	<h1 class="flex-1 text-2xl">Stores</h1>
	<a class="anchor underline" href="/stores/care">Standing care</a>
	<a class="anchor underline" href="/stores/deliveries">Deliveries</a>
	<a class="anchor underline" href="/stores/projects">Projects</a>
	<a class="may" href="/stores/clearings">Plan a clearing</a>
</div>
<ul class="quiet mb-4 flex flex-wrap gap-x-5 gap-y-1" aria-label="What fills a bar">
	{#each LEGEND as [purpose, words] (purpose)}
		<li><span class="swatch {purpose}"></span> {words}</li>
	{/each}
</ul>
<Ask of={volumes}>
	{#snippet children(list)}
		{#if !list.total}
			<p>No volume yet. A minute after a seat's first survey its volumes stand here, with what fills them.</p>
		{/if}
		{#each list.total ? roomsOfVolumes(list.items) : [] as room (room.name)}
			<RoomOfVolumes {room} />
		{/each}
		{#if list.items.length < list.total}
			<p class="quiet">The soonest full {list.items.length} of {list.total} volumes.</p>
		{/if}
	{/snippet}
</Ask>
