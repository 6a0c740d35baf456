<!-- The title and state of a rollout, when it starts, who planned it, and related rollouts. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { startWords } from '../../model/rollout/terms';
	import { moment } from '../../model/words/moment';

	type Props = { rollout: Schemas['RolloutOut'] };
	let { rollout }: Props = $props();

	const words = $derived(rollout.starts_at ? startWords(rollout.starts_at, rollout.state === 'running') : '');
	const STATES = {
		proposed: 'Waiting for approval by a second person.',
		running: '',
		halted: 'This rollout is halted.',
		finished: 'This rollout is finished.'
	};
</script>

<div>
	<h1 class="text-2xl">{rollout.title}</h1>
	<p class="word mt-1" role="status" data-sentence>
		{rollout.sentence}
		{rollout.state === 'running' ? '' : STATES[rollout.state]}
	</p>
	{#if words}<p data-start>{words}</p>{/if}
	<p class="quiet">
		{rollout.created_by}, {moment(rollout.created_at)}
		{#if rollout.approved_by}· approved by {rollout.approved_by}{/if}
		{#if rollout.of}· puts back <a class="anchor" href="/rollouts/{rollout.of}">rollout {rollout.of}</a>{/if}
		{#if rollout.put_back_by}· put back by <a class="anchor" href="/rollouts/{rollout.put_back_by}"
				>rollout {rollout.put_back_by}</a
			>{/if}
	</p>
</div>
