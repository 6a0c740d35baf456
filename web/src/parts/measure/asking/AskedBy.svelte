<!-- By which job a trial is answered, and which difference would matter. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../../api/client';
	import { ask } from '../../../api/queries';
	import { JOBS } from '../../../model/measure/words';
	import { tonight } from '../../../model/rollout/tonight';
	import { fieldOfMoment, momentOfField } from '../../../model/words/zone';
	import AskedBeside from './AskedBeside.svelte';
	import AskedByHand from './AskedByHand.svelte';
	import type { NewTrial } from '../../../state/newTrial.svelte';

	type Props = { trial: NewTrial; rows: Schemas['TriableOut'][] };
	let { trial, rows }: Props = $props();
	const clips = createQuery(ask.clips);
</script>

<fieldset class="grid gap-x-6 gap-y-3 md:grid-cols-2">
	<legend class="mb-1 font-semibold">Measured by</legend>
	<label class="grid gap-1">
		Job
		<select class="field" bind:value={trial.job}>
			{#each JOBS as [job, words] (job)}<option value={job}>{words}</option>{/each}
		</select>
	</label>
	{#if trial.decodes}
		<label class="grid gap-1">
			Reference clip
			<select class="field" bind:value={trial.clip}>
				<option value={0}>select a clip…</option>
				{#each clips.data?.items ?? [] as clip (clip.id)}
					<option value={clip.id}>{clip.name}, {clip.codec}</option>
				{/each}
			</select>
		</label>
	{/if}
	{#if trial.job === 'disk'}
		<label class="grid gap-1">
			Volume <input class="field" placeholder="such as v1" maxlength="40" bind:value={trial.volume} />
		</label>
	{/if}
	{#if trial.job === 'play' || trial.job === 'render'}<AskedByHand {trial} />{/if}
	{#if trial.kind === 'ladder' && !trial.makesByHand}<AskedBeside {trial} {rows} />{/if}
	<label class="grid gap-1">
		Smallest difference that matters
		<span class="flex items-baseline gap-2">
			<input class="field w-24" type="number" min="1" max="100" step="1" bind:value={trial.matters} /> %
		</span>
	</label>
	<label class="grid gap-1">
		Start
		<span class="flex items-center gap-2">
			<input
				class="field"
				type="datetime-local"
				value={fieldOfMoment(trial.begins)}
				onchange={(event) => (trial.begins = momentOfField(event.currentTarget.value) ?? '')}
			/>
			<button type="button" class="anchor quiet" onclick={() => (trial.begins = tonight(new Date()).begins)}
				>tonight</button
			>
		</span>
	</label>
	<label class="col-span-full grid gap-1">
		Reason
		<input
			class="field"
			maxlength="300"
			placeholder="for people who read the result later"
			bind:value={trial.because}
		/>
	</label>
</fieldset>
