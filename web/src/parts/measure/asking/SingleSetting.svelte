<!-- Several values of one setting, or the devices that can do a job. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { DEVICES, keyOf, type NewTrial } from '../../../state/newTrial.svelte';
	import SettingSelect from './SettingSelect.svelte';
	import ValueField from './ValueField.svelte';

	type Row = Schemas['TriableOut'];
	type Props = { trial: NewTrial; rows: Row[] };
	let { trial, rows }: Props = $props();

	const rowOf = (key: string): Row | undefined => rows.find((row) => keyOf(row.setting, row.app) === key);
	const devices = $derived(trial.job === 'decode' || trial.job === 'render');
</script>

<SettingSelect {rows} devices={devices && trial.kind === 'choice'} bind:key={trial.key} />
{#each trial.values as tried, place (place)}
	<div class="flex items-center gap-2">
		<ValueField
			row={rowOf(trial.key)}
			device={trial.key === DEVICES}
			label="Value {place + 1}"
			bind:value={tried.value}
		/>
		{#if trial.values.length > 2}
			<button
				type="button"
				class="quiet size-7"
				aria-label="Remove value {place + 1}"
				onclick={() => trial.values.splice(place, 1)}>×</button
			>
		{/if}
	</div>
{/each}
<button type="button" class="may justify-self-start" onclick={() => trial.values.push({ value: '' })}
	>Add value</button
>
{#if trial.kind === 'ladder'}<p class="quiet">Enter values from the smallest to the largest.</p>{/if}
