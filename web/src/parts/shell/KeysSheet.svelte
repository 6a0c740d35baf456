<script lang="ts">
	import Sheet from '../ui/Sheet.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	const KEYS = [
		['/', 'find a seat or a view'],
		['arrows', 'move between seats, or between readings'],
		['space', 'select the seat or the reading'],
		['Enter', 'open what has the focus'],
		['a', 'select everything off norm that an order can settle'],
		['c', 'correct what is selected: look at the plan first'],
		['w', 'waive what is selected: accept it for a while'],
		['m', 'measure what is selected: does it matter here?'],
		['n r s g', 'in the grid: next off norm, its row, its seat, its cause'],
		['Esc', 'let go of the selection, close a sheet'],
		['?', 'show these keys']
	] as const;
</script>

<Sheet title="Keys" {onclose}>
	<dl class="grid grid-cols-[6rem_1fr] gap-y-2">
		{#each KEYS as [key, does] (key)}
			<dt><kbd>{key}</kbd></dt>
			<dd>{does}</dd>
		{/each}
	</dl>
</Sheet>
