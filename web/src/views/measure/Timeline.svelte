<!-- One timeline: how every seat plays it, its profile on those that are chosen, and what would mend it. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { removing } from '../../api/anew';
	import { ask } from '../../api/queries';
	import { lengthOf, rateOf } from '../../model/measure/timeline';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { route } from '../../state/shell/route.svelte';
	import OnSeat from '../../parts/measure/timeline/OnSeat.svelte';
	import PlayingSeats from '../../parts/measure/timeline/PlayingSeats.svelte';
	import Sources from '../../parts/measure/timeline/Sources.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const MOST = 4; // seats below one another
	const HIGHEST = 4; // times all of a device that a profile shows
	const timeline = createQuery(() => ask.timeline(number));
	const acts = new Acts('timeline');
	let picked = $state<string[]>();
	const told = $derived((timeline.data?.seats ?? []).filter((row) => !row.unmeasured.length));
	/** The one with most to spare, and the first of another class below it. */
	const first = $derived(
		[told[0], told.find((row) => row.hardware_class !== told[0]?.hardware_class)]
			.filter((row) => row !== undefined)
			.map((row) => row.seat)
	);
	const chosen = $derived(picked ?? first);
	const most = $derived(
		Math.min(
			HIGHEST,
			Math.max(
				1.25,
				...(timeline.data?.seats ?? []).filter((row) => chosen.includes(row.seat)).map((row) => row.worst)
			)
		)
	);
	const plays = $derived(told.filter((row) => row.plays).map((row) => row.seat));

	function choose(seat: string): void {
		picked = chosen.includes(seat)
			? chosen.filter((other) => other !== seat)
			: [...chosen, seat].slice(-MOST);
	}

	async function drop(): Promise<void> {
		if (await acts.do(() => removing(['timeline', number], () => write.dropTimeline(number))))
			route.go('/measure/timelines');
	}
</script>

<svelte:head><title>{timeline.data?.name ?? 'Timeline'} · Normant</title></svelte:head>
<Ask of={timeline}>
	{#snippet children(found)}
		<p class="quiet">
			<a class="anchor underline" href="/measure/timelines">Timelines</a> · {lengthOf(found.seconds)} at {rateOf(
				found.rate
			)} frames per second · {found.clips} clips · {found.kept_by}, {moment(found.kept_at)}
		</p>
		<div class="flex flex-wrap items-start gap-x-6">
			<h1 class="flex-1 text-2xl">{found.name}</h1>
			{#if session.may('correct')}<button class="may" onclick={drop}>Delete timeline</button>{/if}
		</div>
		<p class="mt-1 mb-3 text-[1.1rem]" data-sentence>
			{#if !told.length}
				No seat has decode rates for all of its material.
			{:else if plays.length === told.length}
				All {told.length} measured seats play the whole timeline in real time.
			{:else}
				{plays.length} of {told.length} measured seats play the whole timeline in real time.
			{/if}
		</p>
		<Refused {acts} />
		<PlayingSeats seats={found.seats} {chosen} onchoose={choose} />
		{#each chosen as seat (seat)}
			<OnSeat {number} {seat} {most} elsewhere={plays.filter((other) => other !== seat)} />
		{/each}
		<Sources {found} />
	{/snippet}
</Ask>
