<!-- A plan of clearing: numbers first, then what stays and why, the seats, and items on demand. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { stateWords } from '../../model/stores/clearing';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import ClearingActions from '../../parts/stores/clearing/ClearingActions.svelte';
	import ClearingSeats from '../../parts/stores/clearing/ClearingSeats.svelte';
	import KindsTable from '../../parts/stores/clearing/KindsTable.svelte';
	import Staying from '../../parts/stores/clearing/Staying.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const clearing = createQuery(() => ask.clearing(number));
	const acts = new Acts('clearing');
</script>

<svelte:head><title>Clean-up {number} · Normant</title></svelte:head>
<Ask of={clearing}>
	{#snippet children(plan)}
		<p class="quiet">
			<a class="anchor underline" href="/stores">Stores</a> ·
			<a class="anchor underline" href="/stores/clearings">clean-ups</a>
			{plan.id} · {stateWords(plan.state)} · {plan.created_by}, {moment(plan.created_at)}{plan.signed_by
				? ` · signed by ${plan.signed_by}, ${moment(plan.signed_at)}`
				: ''}
		</p>
		<div class="flex flex-wrap items-start gap-x-6 gap-y-2">
			<h1 class="flex-1 text-2xl">{plan.title}</h1>
			{#if session.may('correct')}<ClearingActions {plan} {acts} />{/if}
		</div>
		<p class="mt-1 max-w-[60rem] text-[1.1rem]" data-sentence>{plan.sentence}</p>
		{#if plan.reason}<p class="mt-1 text-sienna">Halted: {plan.reason}.</p>{/if}
		<Refused {acts} class="mt-2" />
		<div class="mt-5 grid grid-cols-1 gap-x-12 gap-y-6 lg:grid-cols-2">
			<KindsTable {plan} />
			<Staying {plan} />
		</div>
		<ClearingSeats {plan} />
	{/snippet}
</Ask>
