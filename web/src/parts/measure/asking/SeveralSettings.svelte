<!-- Settings, each with another value than it has. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { keyOf, type NewTrial } from '../../../state/newTrial.svelte';
	import SettingSelect from './SettingSelect.svelte';
	import ValueField from './ValueField.svelte';

	type Row = Schemas['TriableOut'];
	type Props = { trial: NewTrial; rows: Row[] };
	let { trial, rows }: Props = $props();

	const rowOf = (key: string): Row | undefined => rows.find((row) => keyOf(row.setting, row.app) === key);
	const offNorm = $derived(rows.filter((row) => row.wanted).length);
</script>

{#each trial.wanted as wanted, place (place)}
	<div class="grid items-start gap-2 md:grid-cols-[minmax(0,1fr)_minmax(0,14rem)_1.5rem]">
		<SettingSelect {rows} bind:key={wanted.key} />
		<ValueField row={rowOf(wanted.key)} label="Other value" bind:value={wanted.value} />
		{#if trial.wanted.length > 1}
			<button
				type="button"
				class="quiet"
				aria-label="Remove this setting"
				onclick={() => trial.wanted.splice(place, 1)}>×</button
			>
		{/if}
	</div>
{/each}
<div class="flex flex-wrap gap-3">
	<button type="button" class="may" onclick={() => trial.wanted.push({ key: '', value: '' })}
		>Add setting</button
	>
	{#if trial.kind === 'screening' && offNorm > 1}
		<button type="button" class="may" onclick={() => trial.screen(rows)}>Add the {offNorm} off norm</button>
	{/if}
</div>
{#if trial.kind === 'change' && trial.wanted.length > 1}
	<p class="quiet">With several changes at once, the result cannot show which one made the difference.</p>
{/if}
