<!-- The seats of a clean-up: those with files to delete, each with its stores; the others folded by their reason. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../../api/queries';
	import { exceptionsFirst, type Clearing } from '../../../model/stores/clearing';
	import { route } from '../../../state/shell/route.svelte';
	import ClearingSeatLine from './ClearingSeatLine.svelte';

	type Props = { plan: Clearing };
	let { plan }: Props = $props();

	const stores = createQuery(() => ask.clearingStores(plan.id));
	const open = $derived(route.query.get('open') ?? '');
	const seats = $derived(exceptionsFirst(plan.on));
	const most = $derived(Math.max(1, ...seats.listed.map(({ promised }) => promised)));
</script>

<section class="mt-7" aria-label="Seats">
	<h2 class="mb-1 text-lg">Seats</h2>
	<ul>
		{#each seats.listed as seat (seat.seat)}
			<ClearingSeatLine
				plan={plan.id}
				{seat}
				{most}
				stores={(stores.data?.items ?? []).filter((store) => store.seat === seat.seat)}
				open={open === seat.seat}
				onopen={() => route.filter('open', open === seat.seat ? '' : seat.seat)}
			/>
		{/each}
	</ul>
	{#each seats.folded as same (same.message)}
		<details class="border-t border-hair py-1.5">
			<summary>{same.seats.length} seats: {same.message}</summary>
			<p class="value mt-1">{same.seats.map(({ seat }) => seat).join(', ')}</p>
		</details>
	{/each}
</section>
