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
		'Agents wait until their seat is idle. They restore all files after each run, even after a network or power failure.';
	const BY_HAND =
		'Runs start when a person at the seat opens the run sheet on a phone and sets a condition. All files are restored after each run, after 30 minutes at the latest.';
	const ready = $derived(trial.body !== null && look.data && !look.error && !look.data.unfit.length);
	const hours = (minutes: number): string =>
		minutes < 90 ? `${minutes} minutes` : `${(minutes / 60).toFixed(1)} hours`;
</script>

<aside aria-label="Duration and cost" class="content-start">
	<h2 class="mb-2 text-lg">Duration and cost</h2>
	{#if trial.body === null}
		<p class="quiet" data-missing>To see the duration and to start: {trial.missing.join(', ')}.</p>
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
				About {look.data.runs} runs per seat, {look.data.expected_blocks} blocks (max. {look.data
					.most_blocks}):
				{hours(look.data.minutes)} of idle time per seat.
			</p>{/if}
		{#if look.data.closes.length}
			<p class="quiet mt-1">
				{look.data.closes.map(nameOf).join(' and ')} will be closed and opened again for each change.
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
