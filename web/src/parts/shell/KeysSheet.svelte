<script lang="ts">
	import Sheet from '../ui/Sheet.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	const KEYS = [
		['/', 'find a seat, a view, a rollout, …'],
		['arrows', 'move between seats or settings'],
		['space', 'select the seat or setting'],
		['Enter', 'open the focused item'],
		['a', 'select everything that can be corrected'],
		['c', 'correct the selection (opens the plan)'],
		['w', 'waive the selection'],
		['m', 'run a trial of the selection'],
		['n r s g', 'in Drift: next off norm, row, seat, cause'],
		['Esc', 'clear the selection, close a sheet'],
		['?', 'show keyboard shortcuts']
	] as const;
</script>

<Sheet title="Keyboard shortcuts" {onclose}>
	<dl class="grid grid-cols-[6rem_1fr] gap-y-2">
		{#each KEYS as [key, does] (key)}
			<dt><kbd>{key}</kbd></dt>
			<dd>{does}</dd>
		{/each}
	</dl>
</Sheet>
