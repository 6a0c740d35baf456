<!-- The memory planner: a seat's memory to scale, its shares as sliders, and the result beside them. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { heardOf } from '../../model/house/rooms';
	import { MemoryPlan } from '../../state/memoryPlan.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import CutBar from '../../parts/measure/memory/CutBar.svelte';
	import CutSliders from '../../parts/measure/memory/CutSliders.svelte';
	import CutFields from '../../parts/measure/memory/CutFields.svelte';
	import CutResult from '../../parts/measure/memory/CutResult.svelte';
	import MeasureTabs from '../../parts/measure/MeasureTabs.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const floor = createQuery(ask.floor);
	const seats = $derived(heardOf(floor.data?.items ?? []).map(({ name }) => name));
	const seat = $derived(route.query.get('seat') ?? seats[0] ?? '');
	const plan = new MemoryPlan();
	const cut = createQuery(() => ({
		...ask.memory(seat, plan.query),
		placeholderData: keepPreviousData
	}));
</script>

<svelte:head><title>Memory planner · Normant</title></svelte:head>
<h1 class="mb-2 text-2xl">Memory planner</h1>
<MeasureTabs />
<div class="mb-4 flex flex-wrap items-end gap-x-6 gap-y-2">
	<label class="grid gap-1">
		Seat
		<select
			class="field w-40"
			value={seat}
			onchange={(event) => (plan.reset(), route.filter('seat', event.currentTarget.value))}
		>
			{#each seats as name (name)}<option>{name}</option>{/each}
		</select>
	</label>
	<label class="grid gap-1">
		Class <select
			class="field w-48"
			value=""
			onchange={(event) => (plan.reset(), route.filter('seat', event.currentTarget.value))}
		>
			<option value="">select a class…</option>
			{#each cut.data?.classes ?? [] as { name, count, first } (name)}
				<option value={first}>{name}: {count} {count === 1 ? 'seat' : 'seats'}, from {first}</option>
			{/each}
		</select>
	</label>
	<CutFields {plan} apps={cut.data?.apps ?? []} app={cut.data?.app ?? ''} />
</div>
<Ask of={cut}>
	{#snippet children(found)}
		<CutBar cut={found} />
		<div class="mt-5 grid grid-cols-1 gap-x-12 gap-y-6 lg:grid-cols-2">
			<section aria-label="Shares">
				<h2 class="mb-2 border-b border-hair pb-1 text-lg">Shares</h2>
				<CutSliders cut={found} {plan} />
			</section>
			<section aria-label="Result">
				<h2 class="mb-2 border-b border-hair pb-1 text-lg">Result</h2>
				<CutResult
					cut={found}
					{plan}
					correcting={session.may('correct')}
					publishing={session.may('publish')}
				/>
			</section>
		</div>
	{/snippet}
</Ask>
