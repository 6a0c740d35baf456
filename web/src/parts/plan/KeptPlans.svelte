<!-- Plans that were kept by name: open one, with what it would settle now. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask, read } from '../../api/queries';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import { session } from '../../state/shell/session.svelte';

	const plans = createQuery(ask.plans);
	const found = $derived(plans.data?.items ?? []);
	const correcting = $derived(session.may('correct'));
	let says = $state('');
	const acts = new Acts('rollout', 'plans');

	const open = (number: number): Promise<boolean> =>
		acts.do(async () => {
			const plan = await read.keptPlan(number);
			says = plan.findings.length ? '' : `Everything in ${plan.name} is in norm.`;
			correction.plan(plan.findings, plan.terms, { kept: { id: plan.id, name: plan.name, seen: plan.seen } });
		});

	const forget = (number: number): Promise<boolean> => acts.do(() => write.forgetPlan(number));
</script>

{#if found.length}
	<section class="mt-8" aria-labelledby="kept">
		<h2 id="kept" class="text-lg">Saved plans</h2>
		{#if acts.refused || says}<p class="quiet" role="status">{acts.refused || says}</p>{/if}
		<ul>
			{#each found as plan (plan.id)}
				{@render line(plan)}
			{/each}
		</ul>
	</section>
{/if}

{#snippet line(plan: Schemas['KeptPlanOut'])}
	<li class="flex flex-wrap items-baseline gap-x-4 border-t border-hair py-2" data-kept={plan.name}>
		<span class="font-semibold">{plan.name}</span>
		<span class="quiet"
			>{plan.readings}
			{plan.readings === 1 ? 'reading' : 'readings'} on {plan.seats}
			{plan.seats === 1 ? 'seat' : 'seats'}, {plan.off_norm || 0} off norm now; {plan.kept_by}, {moment(
				plan.kept_at
			)}</span
		>
		{#if correcting}
			<span class="ml-auto flex gap-2">
				<button class="may" onclick={() => open(plan.id)}
					>Open<span class="sr-only"> {plan.name}</span></button
				>
				<button class="may" onclick={() => forget(plan.id)}
					>Delete<span class="sr-only"> {plan.name}</span></button
				>
			</span>
		{/if}
	</li>
{/snippet}
