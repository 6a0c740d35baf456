<!-- One codec on a group of seats: the device, and its measured rate as a bar against the rate needed. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { rateShare, type RateScale } from '../../model/measure/rates';
	import { routeWords } from '../../model/measure/words';

	type Props = {
		route: Schemas['GroupRouteOut'];
		scale: RateScale;
		seat: string;
		open: boolean;
		onopen: () => void;
	};
	let { route, scale, seat, open, onopen }: Props = $props();

	const spoken = $derived(`${seat}: ${routeWords(route)}`);
	const width = $derived(route.rate === null ? 0 : rateShare(route.rate, scale));
</script>

<button
	class:slow={route.plays === false}
	title={spoken}
	aria-label={spoken}
	aria-expanded={open}
	onclick={onopen}
>
	<span class="track">
		{#if route.rate === null}
			<span class="missing"></span>
		{:else}
			<span class="bar" class:cpu={route.device === 'cpu'} style:width="{100 * width}%"></span>
		{/if}
		<span class="needed" style:left="{100 * scale.share}%"></span>
	</span>
	<span class="flex justify-between gap-2 text-sm">
		<span class="quiet">{route.device}</span>
		<span class="value">{route.rate === null ? '' : route.rate.toFixed(0)}</span>
	</span>
</button>

<style>
	button {
		display: block;
		width: 100%;
		padding: 0.15rem 0.3rem;
		margin-left: -0.3rem;
		text-align: left;
	}
	button:hover,
	button[aria-expanded='true'] {
		background: var(--wash);
	}
	.track {
		position: relative;
		display: block;
		height: 12px;
		margin-block: 4px;
	}
	.bar,
	.missing {
		position: absolute;
		inset-block: 0;
		left: 0;
	}
	.bar {
		background: var(--kelp);
	}
	.cpu {
		background: var(--rule);
	}
	.slow .bar {
		background: repeating-linear-gradient(135deg, var(--oxblood) 0 4px, var(--sienna) 4px 6px);
	}
	.slow .value {
		color: var(--oxblood);
		font-weight: 600;
	}
	.missing {
		width: 20%;
		border: 1px dashed var(--rule);
	}
	.needed {
		position: absolute;
		inset-block: -4px;
		border-left: 2px dotted var(--oxblood);
	}
</style>
