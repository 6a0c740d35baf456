<!-- Trials as sentences: those that run, and what was shown. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { KINDS } from '../../model/measure/words';
	import { session } from '../../state/shell/session.svelte';
	import MeasureTabs from '../../parts/measure/MeasureTabs.svelte';
	import TrialLine from '../../parts/measure/TrialLine.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const trials = createQuery(ask.trials);
</script>

<svelte:head><title>Measure · Normant</title></svelte:head>
<h1 class="mb-2 text-2xl">Measure</h1>
<MeasureTabs />
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_20rem]">
	<Ask of={trials}>
		{#snippet children(list)}
			<ul>
				{#each list.items as trial (trial.id)}
					<TrialLine {trial} />
				{:else}
					<li class="border-t border-hair py-6">
						Nothing was measured yet. Select readings of a seat and press <kbd>m</kbd>, or ask one of the
						questions beside this.
					</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	{#if session.may('correct')}
		<aside aria-label="New trials">
			<h2 class="mb-2 text-lg">Ask by runs</h2>
			<ul>
				{#each KINDS as [kind, question, meaning] (kind)}
					<li class="border-t border-hair py-2">
						<a class="anchor font-semibold" href="/measure/new?kind={kind}">{question}</a>
						<p class="quiet">{meaning}</p>
					</li>
				{/each}
			</ul>
			<p class="quiet mt-3">
				Conditions are run in blocks, in an order that is drawn, while nobody needs the seat; afterwards every
				file has its bytes from before.
			</p>
		</aside>
	{/if}
</div>
