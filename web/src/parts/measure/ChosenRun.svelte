<!-- A run that was chosen: machine load meanwhile. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { figureOf } from '../../model/measure/words';
	import { ask } from '../../api/queries';
	import Ask from '../ui/Ask.svelte';
	import Loads from './Loads.svelte';

	type Props = { trial: number; run: Schemas['RunOut']; beside: Schemas['BesideOut'] | null };
	let { trial, run, beside }: Props = $props();

	const samples = createQuery(() => ask.run(trial, run.id));
</script>

<h3 class="mt-4 mb-1">{run.condition} on {run.seat}, block {run.block}: machine load</h3>
{#if beside && run.beside}
	<p class="mb-1">Competing job, {beside.words}: {figureOf(beside.job, run.beside)}.</p>
{/if}
{#if run.has_samples}
	<Ask of={samples}>
		{#snippet children(found)}
			{#if found.samples}<Loads samples={found.samples} />{/if}
			{#each found.proof as proof (proof.device)}
				<p class="mt-1" class:text-sienna={proof.seen === 'not seen'}>{proof.sentence}</p>
			{/each}
		{/snippet}
	</Ask>
{:else}
	<p class="quiet">No samples were recorded during this run.</p>
{/if}
