<!-- Thirty days of a seat: what changed when, and the moment that is shown. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { CAUSES, placed } from '../../model/house/strip';
	import { exactly } from '../../model/words/moment';
	import ChangeMark from './ChangeMark.svelte';
	import StripPlot from './StripPlot.svelte';

	type Props = { changes: Schemas['MovedOut'][]; at: string; onchoose: (at: string) => void };
	let { changes, at, onchoose }: Props = $props();

	const DAYS = 30;
	const now = Date.now();
	const groups = $derived(placed(changes, now, DAYS));
</script>

<section aria-label="Last 30 days">
	<div class="flex flex-wrap items-baseline gap-x-4">
		<h2 class="text-base">Last 30 days</h2>
		<p class="quiet" role="status">
			{at ? `state at ${exactly(at)}` : `${changes.length || 'no'} changes; current state`}
		</p>
		{#if at}<button class="anchor text-sm" onclick={() => onchoose('')}>Back to now</button>{/if}
		<p class="quiet ml-auto flex flex-wrap gap-x-4 gap-y-0.5 text-[0.82rem]">
			{#each Object.entries(CAUSES) as [cause, name] (cause)}
				<span><ChangeMark {cause} /> {name}</span>
			{/each}
		</p>
	</div>
	<StripPlot {groups} {now} days={DAYS} {at} {onchoose} />
	{#if groups.length}
		<details class="mt-1 text-sm">
			<summary class="quiet">All changes, newest first</summary>
			<ul>
				{#each [...groups].reverse() as group (group.at + group.family + group.cause)}
					<li>
						<button class="anchor py-1 text-left" onclick={() => onchoose(group.at)}
							>{exactly(group.at)}, {CAUSES[group.cause] ?? group.cause}: {group.words}</button
						>
					</li>
				{/each}
			</ul>
		</details>
	{/if}
</section>
