<!-- What is set: other values of settings, or several values of one. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { DEVICES, keyOf, type NewTrial } from '../../state/newTrial.svelte';
	import SettingSelect from './SettingSelect.svelte';
	import ValueField from './ValueField.svelte';

	type Row = Schemas['TriableOut'];
	type Props = { trial: NewTrial; rows: Row[] };
	let { trial, rows }: Props = $props();

	const rowOf = (key: string): Row | undefined => rows.find((row) => keyOf(row.setting, row.app) === key);
	const devices = $derived(trial.job === 'decode' || trial.job === 'render');
	const offNorm = $derived(rows.filter((row) => row.wanted).length);
</script>

<fieldset class="grid gap-2">
	<legend class="mb-1 font-semibold">{trial.single ? 'Which values' : 'What is changed'}</legend>
	{#if !trial.seats.length}
		<p class="quiet">Choose a seat first: what can be tried is what was read there.</p>
	{:else if trial.single}
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
						class="quiet"
						aria-label="Leave value {place + 1} out"
						onclick={() => trial.values.splice(place, 1)}>×</button
					>
				{/if}
			</div>
		{/each}
		<button type="button" class="may justify-self-start" onclick={() => trial.values.push({ value: '' })}
			>One value more</button
		>
		{#if trial.kind === 'ladder'}<p class="quiet">From the smallest to the largest.</p>{/if}
	{:else}
		{#each trial.wanted as wanted, place (place)}
			<div class="grid items-start gap-2 md:grid-cols-[minmax(0,1fr)_minmax(0,14rem)_1.5rem]">
				<SettingSelect {rows} bind:key={wanted.key} />
				<ValueField row={rowOf(wanted.key)} label="Other value" bind:value={wanted.value} />
				{#if trial.wanted.length > 1}
					<button
						type="button"
						class="quiet"
						aria-label="Leave this setting out"
						onclick={() => trial.wanted.splice(place, 1)}>×</button
					>
				{/if}
			</div>
		{/each}
		<div class="flex flex-wrap gap-3">
			<button type="button" class="may" onclick={() => trial.wanted.push({ key: '', value: '' })}
				>One setting more</button
			>
			{#if trial.kind === 'screening' && offNorm > 1}
				<button type="button" class="may" onclick={() => trial.screen(rows)}
					>Take the {offNorm} that are off norm</button
				>
			{/if}
		</div>
		{#if trial.kind === 'change' && trial.wanted.length > 1}
			<p class="quiet">Of several changes at once the verdict cannot tell which made the difference.</p>
		{/if}
	{/if}
</fieldset>
