<!-- What is set: other values of settings, or several values of one. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import type { NewTrial } from '../../../state/newTrial.svelte';
	import SeveralSettings from './SeveralSettings.svelte';
	import SingleSetting from './SingleSetting.svelte';

	type Props = { trial: NewTrial; rows: Schemas['TriableOut'][] };
	let { trial, rows }: Props = $props();
</script>

<fieldset class="grid gap-2">
	<legend class="mb-1 font-semibold">{trial.single ? 'Values' : 'Changes'}</legend>
	{#if !trial.seats.length}
		<p class="quiet">Select a seat first: its last survey lists the settings that can be tried.</p>
	{:else if trial.single}
		<SingleSetting {trial} {rows} />
	{:else}
		<SeveralSettings {trial} {rows} />
	{/if}
</fieldset>
