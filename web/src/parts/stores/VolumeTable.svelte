<!-- Volumes with their year and forecast: those that need a decision, and the others by room on request. -->
<script lang="ts">
	import {
		fillingVolumes,
		PURPOSES,
		purposeWords,
		roomsOfVolumes,
		weeksOf,
		type Volume
	} from '../../model/stores/bars';
	import { route } from '../../state/shell/route.svelte';
	import VolumeList from './VolumeList.svelte';

	type Props = { volumes: Volume[] };
	let { volumes }: Props = $props();

	const SHORT_LIST = 9;
	const LEGEND = [
		...PURPOSES.map((purpose) => [purpose, purposeWords(purpose)]),
		['rest', 'everything else']
	];
	const filling = $derived(fillingVolumes(volumes));
	const rooms = $derived(roomsOfVolumes(volumes));
	const others = $derived(volumes.length - filling.length);
	/** A short list leaves room for the fullest of the others: the list is sorted by how full they are. */
	const fullest = $derived(
		volumes.filter(({ words }) => !words).slice(0, Math.max(0, SHORT_LIST - filling.length))
	);
	const weeks = $derived(weeksOf(volumes));
	const opened = $derived(route.query.get('open') ?? '');
	/** All others are shown on request, and when the open one is not listed otherwise. */
	const showing = $derived(
		route.query.get('all') === 'yes' ||
			(opened !== '' && ![...filling, ...fullest].some(({ seat, volume }) => `${seat}/${volume}` === opened))
	);

	function toggle(): void {
		const all = showing ? '' : 'yes';
		if (showing) route.filter('open', '');
		route.filter('all', all);
	}
</script>

<div class="volumes">
	<div class="quiet heads text-sm">
		<span>Volume</span>
		<span>
			Used by
			<ul class="flex flex-wrap gap-x-3" aria-label="Legend">
				{#each LEGEND as [purpose, words] (purpose)}
					<li class="whitespace-nowrap"><span class="swatch {purpose}"></span> {words}</li>
				{/each}
			</ul>
		</span>
		<span class="text-right">Free</span>
		<span>Last {weeks} weeks, and when it may be full</span>
		<span>Forecast</span>
	</div>
	<section class="mb-5" aria-label="Filling up">
		{#if filling.length}
			<VolumeList volumes={filling} {weeks} />
		{:else}
			<p class="border-t border-hair py-2">No volume is expected to fill up.</p>
		{/if}
	</section>
	{#if fullest.length && !showing}
		<section class="mb-5" aria-label="Fullest of the others">
			<h2 class="mb-1 text-lg">Fullest of the others</h2>
			<VolumeList volumes={fullest} {weeks} />
		</section>
	{/if}
	{#if others}
		<button class="anchor mb-4 underline" aria-expanded={showing} onclick={toggle}>
			{showing ? 'Hide' : 'Show'}
			{others === 1 ? 'the other volume' : `all ${others} volumes with nothing to decide`}
		</button>
	{/if}
	{#if showing}
		{#each rooms as room (room.name)}
			<section class="mb-5" aria-label={room.name}>
				<h2 class="mb-1 text-lg">{room.name}</h2>
				<VolumeList volumes={room.volumes} {weeks} />
			</section>
		{/each}
	{/if}
</div>

<style>
	.volumes {
		--volume-columns: 13rem minmax(8rem, 1fr) 5rem minmax(8rem, 1.15fr) 16rem;
	}
	.heads {
		display: grid;
		grid-template-columns: var(--volume-columns);
		gap: 0.2rem 1.4rem;
		padding-bottom: 0.3rem;
	}
	@media (max-width: 62rem) {
		.heads {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
