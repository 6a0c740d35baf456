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

<svelte:head><title>Clean-ups · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · clean-ups</p>
<h1 class="mb-1 text-2xl">Clean-ups</h1>
<p class="mb-5 max-w-[60rem]">
	Seats scan their stores and list files that can be deleted. Nothing is deleted before you have read and
	signed the list. Files of live productions, files in use, undelivered files and only copies are always kept.
</p>
{#if session.may('correct')}<PlanClearing />{/if}
<h2 class="mt-8 mb-1 text-lg">Plans</h2>
<Ask of={clearings}>
	{#snippet children(list)}
		{#if !list.total}<p>No clean-up plans yet. Create the first one above.</p>{/if}
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
