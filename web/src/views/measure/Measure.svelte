<!-- Trials as sentences, each with its interval on one scale. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { ratioScale } from '../../model/measure/dots';
	import { KINDS } from '../../model/measure/words';
	import { session } from '../../state/shell/session.svelte';
	import MeasureTabs from '../../parts/measure/MeasureTabs.svelte';
	import TrialLine from '../../parts/measure/TrialLine.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const trials = createQuery(ask.trials);
	const scale = $derived(ratioScale((trials.data?.items ?? []).flatMap(({ interval }) => interval ?? [])));
</script>

<svelte:head><title>Measure · Normant</title></svelte:head>
<h1 class="mb-2 text-2xl">Measure</h1>
<MeasureTabs />
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_20rem]">
	<Ask of={trials}>
		{#snippet children(list)}
			<div>
				{#if list.items.some(({ interval }) => interval)}
					<p class="quiet text-sm">
						Bars: left of the line is slower, right is faster; within the band is too small to matter.
					</p>
				{/if}
				<ul>
					{#each list.items as trial (trial.id)}
						<TrialLine {trial} {scale} />
					{:else}
						<li class="border-t border-hair py-6">
							No trials yet. Select settings of a seat and press <kbd>m</kbd>, or select a question on this
							page.
						</li>
					{/each}
				</ul>
			</div>
		{/snippet}
	</Ask>
	{#if session.may('correct')}
		<aside aria-label="New trials">
			<h2 class="mb-2 text-lg">New trial</h2>
			<ul>
				{#each KINDS as [kind, question, meaning] (kind)}
					<li class="border-t border-hair py-2">
						<a class="anchor font-semibold" href="/measure/new?kind={kind}">{question}</a>
						<p class="quiet">{meaning}</p>
					</li>
				{/each}
			</ul>
			<p class="quiet mt-3">
				Conditions run in blocks in random order while the seat is idle. All files are restored afterwards.
			</p>
		</aside>
	{/if}
</div>
