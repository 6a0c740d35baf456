<!-- Plans that were kept by name: open one, with what it would settle now. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { api, data } from '../../api/client';
	import { ask, queryClient } from '../../api/queries';
	import { correction } from '../../state/correction.svelte';
	import { session } from '../../state/session.svelte';
	import { moment } from '../../model/moment';

	const plans = createQuery(ask.plans);
	const found = $derived(plans.data?.items ?? []);
	const correcting = $derived(session.may('correct'));
	let told = $state('');

	const path = (number: number) => ({ params: { path: { number } } });

	async function open(number: number): Promise<void> {
		try {
			const plan = await data(api.GET('/api/v1/plans/{number}', path(number)));
			told = plan.findings.length ? '' : `All of ${plan.name} is in norm.`;
			correction.plan(plan.findings, plan.terms, { kept: { id: plan.id, name: plan.name, seen: plan.seen } });
		} catch (error) {
			told = (error as Error).message;
		}
	}

	async function forget(number: number): Promise<void> {
		await api.DELETE('/api/v1/plans/{number}', path(number));
		await queryClient.invalidateQueries({ queryKey: ['rollout', 'plans'] });
	}
</script>

{#if found.length}
	<section class="mt-8" aria-labelledby="kept">
		<h2 id="kept" class="text-lg">Kept plans</h2>
		{#if told}<p class="quiet" role="status">{told}</p>{/if}
		<ul>
			{#each found as plan (plan.id)}
				<li class="flex flex-wrap items-baseline gap-x-4 border-t border-hair py-2" data-kept={plan.name}>
					<span class="font-semibold">{plan.name}</span>
					<span class="quiet"
						>{plan.readings}
						{plan.readings === 1 ? 'reading' : 'readings'} on {plan.seats}
						{plan.seats === 1 ? 'seat' : 'seats'}, {plan.off_norm || 'none'} off norm now; {plan.kept_by}, {moment(
							plan.kept_at
						)}</span
					>
					{#if correcting}
						<span class="ml-auto flex gap-2">
							<button class="may" onclick={() => open(plan.id)}
								>Open<span class="sr-only"> {plan.name}</span></button
							>
							<button class="may" onclick={() => forget(plan.id)}
								>Forget<span class="sr-only"> {plan.name}</span></button
							>
						</span>
					{/if}
				</li>
			{/each}
		</ul>
	</section>
{/if}
