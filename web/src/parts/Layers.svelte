<!-- Layers as strata: the deeper lies under all, the higher wins. -->
<script lang="ts">
	import type { Schemas } from '../api/client';

	type Props = { layers: Schemas['LayerOut'][] };
	let { layers }: Props = $props();

	const strata = $derived([...layers].reverse());
</script>

<ol class="strata">
	{#each strata as layer, index (layer.name)}
		<li class="stratum" style:--depth={strata.length - 1 - index}>
			<header class="flex flex-wrap items-baseline gap-x-3">
				<h2 class="text-lg">{layer.name}</h2>
				<span class="quiet">{layer.applies}</span>
				<span class="quiet ml-auto"
					>{index === strata.length - 1 ? 'lies under all' : 'wins over what lies below'}</span
				>
			</header>
			<ul class="mt-1">
				{#each layer.rules as rule (rule.line)}
					<li class="border-t border-hair py-1.5">
						<span>{rule.sentence}.</span>
						<span class="quiet"
							>{rule.severity}{rule.locked ? ', locked' : ''}, {rule.evidence}{rule.line
								? `, line ${rule.line}`
								: ''}</span
						>
						{#if rule.because}<p class="quiet">{rule.because}</p>{/if}
					</li>
				{:else}
					<li class="quiet">no rules</li>
				{/each}
			</ul>
		</li>
	{/each}
</ol>

<style>
	.stratum {
		border-left: 6px solid color-mix(in oklch, var(--kelp), var(--paper) calc(var(--depth) * 28%));
		background: var(--sheet);
		padding: 0.6rem 1rem;
		margin-bottom: 3px;
		margin-left: calc(var(--depth) * 14px);
	}
</style>
