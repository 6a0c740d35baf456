<!-- A ratio with its interval on a scale: 1 in the middle, and what is too small to matter as a band. -->
<script lang="ts">
	import { ratioShare, type Scale } from '../../model/measure/dots';

	type Props = {
		ratio: number | null;
		low: number | null;
		high: number | null;
		outcome: string;
		matters: number;
		scale: Scale;
	};
	let { ratio, low, high, outcome, matters, scale }: Props = $props();

	const place = (value: number | null): string => `${100 * ratioShare(value, scale)}%`;
	const clear = $derived(outcome === 'better' || outcome === 'worse');
</script>

<span class="track" aria-hidden="true">
	<span class="band" style:left={place(1 / matters)} style:right="calc(100% - {place(matters)})"></span>
	<span class="middle"></span>
	{#if ratio !== null}
		<span class="bar" class:clear style:left={place(low ?? 0)} style:right="calc(100% - {place(high)})"
		></span>
		<span class="point" class:clear style:left={place(ratio)}></span>
	{/if}
</span>

<style>
	.track {
		position: relative;
		display: block;
		height: 2.1rem;
	}
	.band {
		position: absolute;
		inset-block: 0;
		background: var(--wash);
	}
	.middle {
		position: absolute;
		left: 50%;
		inset-block: 0;
		border-left: 1px solid var(--rule);
	}
	.bar {
		position: absolute;
		top: calc(50% - 3px);
		height: 6px;
		background: var(--muted);
	}
	.point {
		position: absolute;
		top: calc(50% - 8px);
		height: 16px;
		width: 3px;
		margin-left: -1.5px;
		background: var(--muted);
	}
	.clear {
		background: var(--kelp);
	}
</style>
