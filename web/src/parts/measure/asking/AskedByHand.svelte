<!-- Whether somebody at the seat makes the runs, and what they play or export. -->
<script lang="ts">
	import type { NewTrial } from '../../../state/newTrial.svelte';

	type Props = { trial: NewTrial };
	let { trial }: Props = $props();
	const plays = $derived(trial.job === 'play');
</script>

<label class="flex items-baseline gap-2 self-end pb-1">
	<input
		type="checkbox"
		bind:checked={() => trial.makesByHand, (checked) => (trial.byHand = checked)}
		disabled={trial.needsHand}
	/>
	<span>
		A person at the seat runs them with a phone
		{#if trial.needsHand}<span class="quiet block">These seats cannot run this job automatically.</span>{/if}
	</span>
</label>
{#if trial.makesByHand}
	<label class="col-span-full grid gap-1">
		{plays ? 'Material to play' : 'Material to export'}
		<input
			class="field"
			maxlength="300"
			placeholder={plays ? 'clip, start and end' : 'timeline and preset'}
			bind:value={trial.hand.what}
		/>
	</label>
	{#if plays}
		<label class="grid gap-1">
			Duration
			<span class="flex items-baseline gap-2"
				><input class="field w-24" type="number" min="1" max="3000" bind:value={trial.hand.seconds} /> seconds</span
			>
		</label>
		<label class="grid gap-1">
			Rate <span class="flex items-baseline gap-2"
				><input class="field w-24" type="number" min="1" max="1000" step="any" bind:value={trial.hand.rate} /> frames
				per second</span
			>
		</label>
	{/if}
	<label class="grid gap-1">
		{plays ? 'Application, if its dialect has playback statistics' : 'Application'}
		<input
			class="field"
			maxlength="64"
			placeholder={plays ? 'empty: stopwatch' : 'such as tamsel: its exports are timed automatically'}
			bind:value={trial.hand.app}
		/>
	</label>
{/if}
