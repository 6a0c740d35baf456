<!-- Ratios with their intervals as bars on one scale; 1 in the middle, and what is too small to matter as a band. -->
<script lang="ts">
	import { ratioScale, ratioShare } from '../../model/measure/dots';
	import { ratioOf } from '../../model/measure/words';

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
	const place = (ratio: number | null): string => `${100 * ratioShare(ratio, scale)}%`;
	const clear = (outcome: string): boolean => outcome === 'better' || outcome === 'worse';
</script>

<ul class="intervals" aria-label={what}>
	{#each ratios as { name, ratio, low, high, outcome } (name)}
		<li>
			<span class="name">{name}</span>
			<span class="track" aria-hidden="true">
				<span class="band" style:left={place(1 / matters)} style:right="calc(100% - {place(matters)})"></span>
				<span class="middle"></span>
				{#if ratio !== null}
					<span
						class="bar"
						class:clear={clear(outcome)}
						style:left={place(low ?? 0)}
						style:right="calc(100% - {place(high)})"
					></span>
					<span class="point" class:clear={clear(outcome)} style:left={place(ratio)}></span>
				{/if}
			</span>
			<span class="value">{ratioOf(ratio, low, high)}</span>
			<span class="quiet">{outcome}</span>
		</li>
	{/each}
</ul>
<p class="quiet mt-1">
	Left of the line slower, right of it faster; what lies within the band is too small to matter.
</p>

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
	.track {
		position: relative;
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
