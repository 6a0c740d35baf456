<!-- What it would take to bring the house to a draft: looked at before publishing, kept for after it. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { sizeOf, titleOf } from '../../model/rollout/planTitle';
	import { USUAL } from '../../model/rollout/terms';
	import { Acts } from '../../state/acts.svelte';
	import OrderOfSeats from '../plan/OrderOfSeats.svelte';
	import PlanOfSeat from '../plan/PlanOfSeat.svelte';
	import Ask from '../ui/Ask.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { text: string; onclose: () => void };
	let { text, onclose }: Props = $props();

	let terms = $state.raw<Schemas['TermsIn']>(USUAL);
	let name = $state('');
	let kept = $state('');
	const acts = new Acts('rollout', 'plans');
	const plan = createQuery(() => ({ ...ask.draftPlan(text, terms), placeholderData: keepPreviousData }));
	const seats = $derived(plan.data?.seats ?? []);
	const size = $derived(sizeOf(seats));

	async function keep(): Promise<void> {
		await acts.do(async () => {
			kept = (await write.keepPlanOfDraft({ text, terms, name: name.trim() })).name;
		});
	}
</script>

<Sheet title={plan.data ? titleOf(size.changes, size.seats, size.errands) : 'Plan'} {onclose} wide>
	<Ask of={plan} waiting="Preparing the plan…">
		{#snippet children(made)}
			<p class="quiet mb-3">
				The corrections that this draft needs. Save the plan, publish the draft, then open the plan on <em
					>Rollouts</em
				>.
			</p>
			{#if size.changes}
				<OrderOfSeats
					order={made.order}
					{terms}
					onterms={(next) => (terms = next)}
					stale={plan.isPlaceholderData}
					moving={seats.some((seat) => seat.changes.some((change) => change.volume))}
				/>
			{/if}
			{#each made.seats as seat (seat.seat)}
				<PlanOfSeat {seat} closes={seat.closes} restarts={seat.restarts} />
			{:else}
				<p>Every seat already complies, or the current edition requires the same.</p>
			{/each}
			<Refused {acts} class="mt-3" />
			{#if made.seats.length}
				<form
					class="sticky -bottom-4 mt-4 -mb-4 flex items-end gap-3 border-t border-hair bg-paper py-3"
					onsubmit={(event) => {
						event.preventDefault();
						void keep();
					}}
				>
					<label class="grid gap-1">
						<span class="quiet">Name</span>
						<input class="field w-80" maxlength="200" required bind:value={name} />
					</label>
					<button class="do" disabled={!name.trim()}>Save plan</button>
					{#if kept}<span class="quiet" role="status">Saved as {kept}.</span>{/if}
				</form>
			{/if}
		{/snippet}
	</Ask>
</Sheet>
