<!-- One of the settings that can be tried, with what it is now. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { DEVICES, keyOf } from '../../../state/newTrial.svelte';

	type Props = { rows: Schemas['TriableOut'][]; devices?: boolean; key: string };
	let { rows, devices = false, key = $bindable() }: Props = $props();
</script>

<select class="field" aria-label="Setting" bind:value={key}>
	<option value="">select a setting…</option>
	{#if devices}<option value={DEVICES}>Device</option>{/if}
	{#each rows as row (keyOf(row.setting, row.app))}
		<option value={keyOf(row.setting, row.app)}>{row.title}: {row.here || 'differs'}</option>
	{/each}
</select>
