<!-- Timelines of productions: what each would take of the house's seats. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { lengthOf, rateOf } from '../../model/measure/timeline';
	import { moment } from '../../model/words/moment';
	import { session } from '../../state/shell/session.svelte';
	import MeasureTabs from '../../parts/measure/MeasureTabs.svelte';
	import BringTimeline from '../../parts/measure/timeline/BringTimeline.svelte';
	import Effects from '../../parts/measure/timeline/Effects.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const timelines = createQuery(ask.timelines);
</script>

<svelte:head><title>Timelines · Normant</title></svelte:head>
<h1 class="mb-2 text-2xl">Timelines</h1>
<MeasureTabs />
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_22rem]">
	<div>
		<Ask of={timelines}>
			{#snippet children(list)}
				<ul>
					{#each list.items as timeline (timeline.id)}
						<li
							class="grid grid-cols-1 gap-x-4 border-t border-hair py-2 md:grid-cols-[minmax(0,1fr)_12rem_6rem_11rem]"
						>
							<a class="anchor font-semibold underline" href="/measure/timelines/{timeline.id}"
								>{timeline.name}</a
							>
							<span class="value">{lengthOf(timeline.seconds)} at {rateOf(timeline.rate)}</span>
							<span class="quiet">{timeline.clips} clips</span>
							<span class="quiet">{timeline.kept_by}, {moment(timeline.kept_at)}</span>
						</li>
					{:else}
						<li class="border-t border-hair py-6">
							No timelines yet. Upload a cut to see which seats can play it, and what the others need.
						</li>
					{/each}
				</ul>
			{/snippet}
		</Ask>
		<Effects />
	</div>
	{#if session.may('correct')}<BringTimeline />{/if}
</div>
