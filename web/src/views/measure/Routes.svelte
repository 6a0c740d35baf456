<!-- Decode routes: groups of similar seats by codecs, with the measured rate of each as a bar against what is needed. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import MeasureTabs from '../../parts/measure/MeasureTabs.svelte';
	import RouteReason from '../../parts/measure/RouteReason.svelte';
	import RouteTable from '../../parts/measure/RouteTable.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	let needed = $state(25);
	let hours = $state(3);
	const routes = createQuery(() => ({ ...ask.routes(needed, hours), placeholderData: keepPreviousData }));
	let opened = $state<{ seat: string; codec: string }>();
	const selected = $derived.by(() => {
		const group = routes.data?.groups.find(({ seats }) => opened && seats.includes(opened.seat));
		const route = group?.routes.find(({ codec }) => codec === opened?.codec);
		return group && route ? { group, route } : undefined;
	});
</script>

<svelte:head><title>Decode routes · Normant</title></svelte:head>
<div class="mb-2 flex flex-wrap items-end gap-x-6 gap-y-2">
	<div class="min-w-0 flex-1">
		<h1 class="text-2xl">{routes.data?.sentence || 'Decode routes'}</h1>
		<p class="quiet">
			Bars are rates measured with reference clips; the dotted line is the rate needed. An empty box has not
			been measured.
		</p>
	</div>
	<label class="flex items-center gap-2">
		Needed <input class="field w-20" type="number" min="1" max="1000" bind:value={needed} /> frames per second
	</label>
	<label class="flex items-center gap-2">
		Material <input class="field w-20" type="number" min="0" max="10000" step="any" bind:value={hours} /> hours
	</label>
</div>
<MeasureTabs />
<Ask of={routes}>
	{#snippet children(found)}
		{#if !found.groups.length}
			<p>No seat has been read yet. Enrol a seat to see which device decodes each codec.</p>
		{:else}
			<RouteTable
				{found}
				{needed}
				selected={selected?.route}
				onopen={(seat, codec) => (opened = { seat, codec })}
			/>
			<RouteReason group={selected?.group} route={selected?.route} {needed} />
		{/if}
	{/snippet}
</Ask>
