<!-- What can be done with a trial: halt it while it runs, ask the same again. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import type { Acts } from '../../state/acts.svelte';
	import { addressOfRepeat } from '../../state/newTrial.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = {
		trial: Schemas['TrialOut'];
		acts: Acts;
		onhalt: (why: string) => Promise<boolean>;
		ondraft?: ((attach: boolean) => void) | undefined;
	};
	let { trial, acts, onhalt, ondraft }: Props = $props();

	let halting = $state(false);
	let why = $state('');

	async function halt(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await onhalt(why)) halting = false;
	}
</script>

<div class="flex gap-3">
	{#if trial.state === 'running'}
		<button class="may" onclick={() => (halting = true)}>Stop trial</button>
	{:else}
		<a class="may" href={addressOfRepeat(trial)}>Run again</a>
		{#if ondraft && trial.state === 'ended' && trial.conditions.some(({ sets }) => sets?.length)}
			<button class="may" disabled={acts.busy} onclick={() => ondraft(false)}
				>Create rule from this result</button
			>
		{/if}
	{/if}
</div>
{#if halting}
	<Sheet title="Stop this trial" onclose={() => (halting = false)}>
		<form class="grid gap-3" onsubmit={halt}>
			<p>No further runs. Agents restore every changed file, byte for byte.</p>
			<label class="grid gap-1"
				>Reason <input class="field" bind:value={why} required maxlength="300" /></label
			>
			<button class="do justify-self-start" disabled={acts.busy}>Stop trial</button>
		</form>
	</Sheet>
{/if}
