<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../api/queries';
	import Ask from '../parts/Ask.svelte';
	import Layers from '../parts/Layers.svelte';
	import { moment } from '../parts/moment';
	import StandardText from '../parts/StandardText.svelte';
	import { route } from '../state/route.svelte';

	const standard = createQuery(ask.standard);
	const editions = createQuery(ask.editions);
	const asText = $derived(route.query.get('as') === 'text');
</script>

<svelte:head><title>Standard · Normant</title></svelte:head>
<Ask of={standard}>
	{#snippet children(found)}
		<div class="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
			<h1 class="text-2xl">{found.name}</h1>
			<p class="word">
				edition {found.number}, {moment(found.published_at)}{found.published_by
					? `, ${found.published_by}`
					: ''}{found.note ? `: ${found.note}` : ''}
			</p>
			<div class="ml-auto flex gap-4" role="group" aria-label="Shown as">
				<button class="as" aria-pressed={!asText} onclick={() => route.filter('as', '')}>Sentences</button>
				<button class="as" aria-pressed={asText} onclick={() => route.filter('as', 'text')}>Text</button>
			</div>
		</div>
		{#if asText}
			{#key found.number}
				<StandardText text={found.text} base={found.number} />
			{/key}
		{:else}
			<Layers layers={found.layers} />
			{#each found.warnings as warning (warning.message)}
				<p class="mt-2 text-sienna">{warning.line ? `Line ${warning.line}: ` : ''}{warning.message}</p>
			{/each}
		{/if}
		<section class="mt-6">
			<h2 class="text-base">Editions</h2>
			{#each editions.data?.items ?? [] as edition (edition.number)}
				<p class="quiet mt-1">
					{edition.number}: {edition.note || 'no note'}, {moment(edition.published_at)}{edition.published_by
						? `, ${edition.published_by}`
						: ''}
				</p>
			{/each}
		</section>
	{/snippet}
</Ask>

<style>
	.as {
		color: var(--muted);
		border-bottom: 2px solid transparent;
	}
	.as[aria-pressed='true'] {
		color: var(--ink);
		font-weight: 600;
		border-color: var(--kelp);
	}
</style>
