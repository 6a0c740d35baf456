<!-- What a rollout changes on one of its seats; asked for when somebody opens the seat. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../ui/Ask.svelte';
	import PlanOfSeat from '../plan/PlanOfSeat.svelte';

	type Props = { number: number; seat: string };
	let { number, seat }: Props = $props();

	const planned = createQuery(() => ask.plannedOn(number, seat));
</script>

<Ask of={planned}>
	{#snippet children(found)}<PlanOfSeat seat={found} headed={false} />{/snippet}
</Ask>
