<!-- Plans of clearing: what is to be looked through next, and those that were made. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { stateWords } from '../../model/stores/clearing';
	import { moment } from '../../model/words/moment';
	import { storage } from '../../model/words/sizes';
	import { session } from '../../state/shell/session.svelte';
	import PlanClearing from '../../parts/stores/clearing/PlanClearing.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const clearings = createQuery(ask.clearings);
</script>

<svelte:head><title>Clearing · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · clearing</p>
<h1 class="mb-1 text-2xl">Clearing</h1>
<p class="mb-5 max-w-[60rem]">
	Seats look through their stores and tell what may go; nothing is touched before you have read and signed it.
	What is live, in use, not delivered or the only copy always stays.
</p>
{#if session.may('correct')}<PlanClearing />{/if}
<h2 class="mt-8 mb-1 text-lg">Plans</h2>
<Ask of={clearings}>
	{#snippet children(list)}
		{#if !list.total}<p>None yet. The first one begins above.</p>{/if}
		<ul>
			{#each list.items as plan (plan.id)}
				<li class="flex flex-wrap gap-x-6 border-t border-hair py-1.5">
					<a class="anchor flex-1 underline" href="/stores/clearings/{plan.id}">{plan.title}</a>
					<span>{stateWords(plan.state)}</span>
					<span class="value">{storage(plan.cleared)} of {storage(plan.promised)}</span>
					<span class="quiet w-52 text-right">{plan.created_by}, {moment(plan.created_at)}</span>
				</li>
			{/each}
		</ul>
	{/snippet}
</Ask>
