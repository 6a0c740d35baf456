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
	<legend class="mb-1 font-semibold">{trial.single ? 'Which values' : 'What is changed'}</legend>
	{#if !trial.seats.length}
		<p class="quiet">Choose a seat first: what can be tried is what was read there.</p>
	{:else if trial.single}
		<SingleSetting {trial} {rows} />
	{:else}
		<SeveralSettings {trial} {rows} />
	{/if}
</fieldset>
