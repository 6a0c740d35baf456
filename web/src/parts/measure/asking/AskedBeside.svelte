<!-- Of a ladder: another application's job that no value may slow down. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { nameOf } from '../../../model/words/names';
	import type { NewTrial } from '../../../state/newTrial.svelte';

	type Props = { trial: NewTrial; rows: Schemas['TriableOut'][] };
	let { trial, rows }: Props = $props();

	const own = $derived(trial.key.split(' ')[1] ?? '');
	const apps = $derived([...new Set(rows.map((row) => row.app ?? ''))].filter((app) => app && app !== own));
</script>

<label class="grid gap-1">
	Job that must not slow down
	<select class="field" bind:value={trial.beside}>
		<option value="">no competing job</option>
		{#each apps as app (app)}<option value="render {app}">{nameOf(app)} export</option>{/each}
		<option value="decode">decoding by another application</option>
	</select>
</label>
