<!-- The seats of a plan: how much each would give, where it stands, and its stores when it is opened. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../../api/queries';
	import { seatsInOrder, type Clearing } from '../../../model/stores/clearing';
	import { route } from '../../../state/shell/route.svelte';
	import ClearingSeatLine from './ClearingSeatLine.svelte';

	type Props = { plan: Clearing };
	let { plan }: Props = $props();

	const stores = createQuery(() => ask.clearingStores(plan.id));
	const open = $derived(route.query.get('open') ?? '');
	const seats = $derived(seatsInOrder(plan.on));
	const speaking = $derived(
		seats.filter((seat) => seat.promised || seat.message || seat.state === 'looking')
	);
	const most = $derived(Math.max(1, ...seats.map(({ promised }) => promised)));
	const silent = $derived(seats.length - speaking.length);
</script>

<section class="mt-7" aria-label="Seats">
	<h2 class="mb-1 text-lg">Seats</h2>
	<ul>
		{#each speaking as seat (seat.seat)}
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
	{#if silent}
		<p class="quiet mt-2">
			{silent === 1 ? '1 more seat has' : `${silent} more seats have`} nothing to delete.
		</p>
	{/if}
</section>
