<!-- Ratios with their intervals as bars on one scale; 1 in the middle, and what is too small to matter as a band. -->
<script lang="ts">
	import { ratioScale } from '../../model/measure/dots';
	import { ratioOf } from '../../model/measure/words';
	import IntervalTrack from './IntervalTrack.svelte';

	type Ratio = {
		name: string;
		ratio: number | null;
		low: number | null;
		high: number | null;
		outcome: string;
	};
	type Props = { ratios: Ratio[]; matters: number; what: string };
	let { ratios, matters, what }: Props = $props();

	const scale = $derived(ratioScale(ratios));
</script>

<ul class="intervals" aria-label={what}>
	{#each ratios as { name, ratio, low, high, outcome } (name)}
		<li>
			<span class="name">{name}</span>
			<span class="track"><IntervalTrack {ratio} {low} {high} {outcome} {matters} {scale} /></span>
			<span class="value">{ratioOf(ratio, low, high)}</span>
			<span class="quiet">{outcome}</span>
		</li>
	{/each}
</ul>
<p class="quiet mt-1">Left of the line: slower. Right: faster. Within the band: too small to matter.</p>

<style>
	li {
		display: grid;
		grid-template-columns: minmax(6rem, 15rem) minmax(0, 1fr) 13rem 8.5rem;
		gap: 0 0.9rem;
		align-items: center;
		border-top: 1px solid var(--hair);
		min-height: 2.1rem;
	}
	.name {
		text-align: right;
		overflow-wrap: anywhere;
	}
	.value {
		font-size: 0.93rem;
	}
	@media (max-width: 640px) {
		li {
			grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
			padding-block: 0.3rem;
		}
		.name {
			text-align: left;
			grid-column: 1 / -1;
		}
		.track {
			grid-column: 1 / -1;
		}
	}
</style>
