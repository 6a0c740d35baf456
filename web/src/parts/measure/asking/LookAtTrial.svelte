<!-- What starting a trial would take, and the start. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import type { Acts } from '../../../state/acts.svelte';
	import type { NewTrial } from '../../../state/newTrial.svelte';
	import { nameOf } from '../../../model/words/names';
	import Refused from '../../ui/Refused.svelte';

	type Look = { data: Schemas['LookOut'] | undefined; error: Error | null };
	type Props = { trial: NewTrial; look: Look; acts: Acts };
	let { trial, look, acts }: Props = $props();

	const BY_AGENTS =
		'An agent waits until its seat is idle, and puts everything back after each run, also where the network or the power fails.';
	const BY_HAND =
		'Nothing happens until somebody at the seat opens the run sheet on a phone and has a condition set; it is put back after each run, at the latest after half an hour.';
	const ready = $derived(trial.body !== null && look.data && !look.error && !look.data.unfit.length);
	const hours = (minutes: number): string =>
		minutes < 90 ? `${minutes} minutes` : `${(minutes / 60).toFixed(1)} hours`;
</script>

<aside aria-label="What it takes" class="content-start">
	<h2 class="mb-2 text-lg">What it takes</h2>
	{#if trial.body === null}
		<p class="quiet">Once seats, a setting and its values are there, this says how long it takes.</p>
	{:else if look.error}
		<p class="text-oxblood" role="alert">{look.error.message}</p>
	{:else if look.data}
		<p class="font-semibold">{look.data.title}</p>
		<ul class="my-2">
			{#each look.data.conditions as condition (condition)}
				<li class="border-t border-hair py-1">{condition}</li>
			{/each}
		</ul>
		{#if look.data.runs}<p>
				About {look.data.runs} runs a seat, {look.data.expected_blocks} blocks ({look.data.most_blocks} at most):
				{hours(look.data.minutes)} of a seat that nobody needs.
			</p>{/if}
		{#if look.data.closes.length}
			<p class="quiet mt-1">
				{look.data.closes.map(nameOf).join(' and ')} is closed and opened again for each change.
			</p>
		{/if}
		{#each look.data.unfit as why (why)}<p class="mt-1 text-oxblood" role="alert">{why}</p>{/each}
		{#each look.data.outdated as why (why)}<p class="mt-1 text-sienna">{why}.</p>{/each}
		<p class="quiet mt-2">
			{trial.makesByHand ? BY_HAND : BY_AGENTS}
		</p>
	{/if}
	<button class="do mt-4" disabled={!ready || acts.busy}>Start this trial</button>
	<Refused {acts} class="mt-2" />
</aside>
