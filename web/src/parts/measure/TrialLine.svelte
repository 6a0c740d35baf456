<!-- A trial in the list: what it asks, what it shows, how far it is. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import type { Scale } from '../../model/measure/dots';
	import { ratioOf } from '../../model/measure/words';
	import { moment } from '../../model/words/moment';
	import IntervalTrack from './IntervalTrack.svelte';

	type Props = { trial: Schemas['TrialRowOut']; scale: Scale };
	let { trial, scale }: Props = $props();

	const share = $derived(Math.min(1, trial.blocks / Math.max(1, trial.expected)));
</script>

<li
	class="grid grid-cols-1 gap-x-6 gap-y-1 border-t border-hair py-3 md:grid-cols-[minmax(0,1fr)_14rem_9rem]"
>
	<div>
		<a class="text-[1.05rem] font-semibold text-ink" href="/measure/trials/{trial.id}">{trial.title}</a>
		<p>{trial.sentence}</p>
		{#if trial.old}<p class="text-sienna">Out of date: {trial.old}. Run again before you rely on it.</p>{/if}
	</div>
	<div
		title={trial.interval
			? ratioOf(trial.interval.ratio, trial.interval.low, trial.interval.high)
			: undefined}
	>
		{#if trial.interval}
			{@const found = trial.interval}
			<IntervalTrack {...found} matters={trial.matters} {scale} />
			<span class="quiet block text-center text-sm">{found.name}</span>
		{/if}
	</div>
	<div>
		{trial.state}
		{#if trial.state === 'running'}
			<span class="track" role="img" aria-label="{trial.blocks} of about {trial.expected} blocks">
				<span style:width="{100 * share}%"></span>
			</span>
			<span class="quiet block text-sm">{trial.blocks} of about {trial.expected} blocks</span>
		{/if}
		<span class="quiet block text-sm">{trial.created_by}, {moment(trial.created_at)}</span>
	</div>
</li>

<style>
	.track {
		display: block;
		height: 5px;
		margin-block: 0.3rem 0.1rem;
		background: var(--wash);
	}
	.track span {
		display: block;
		height: 100%;
		background: var(--kelp);
	}
</style>
