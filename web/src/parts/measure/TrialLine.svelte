<!-- A trial in the list: what it asks, what it shows, how far it is. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';

	type Props = { trial: Schemas['TrialRowOut'] };
	let { trial }: Props = $props();

	const share = $derived(Math.min(1, trial.blocks / Math.max(1, trial.expected)));
</script>

<li
	class="grid grid-cols-1 gap-x-6 gap-y-1 border-t border-hair py-3 md:grid-cols-[minmax(0,1fr)_9rem_10rem]"
>
	<div>
		<a class="text-[1.05rem] font-semibold text-ink" href="/measure/trials/{trial.id}">{trial.title}</a>
		<p>{trial.sentence}</p>
		{#if trial.old}<p class="text-sienna">Old: {trial.old}. Repeat it before you rely on it.</p>{/if}
	</div>
	<div>
		{trial.state}
		{#if trial.state === 'running'}
			<span class="track" role="img" aria-label="{trial.blocks} of about {trial.expected} blocks">
				<span style:width="{100 * share}%"></span>
			</span>
			<span class="quiet">{trial.blocks} of about {trial.expected} blocks</span>
		{/if}
	</div>
	<span class="quiet">{trial.created_by}, {moment(trial.created_at)}</span>
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
