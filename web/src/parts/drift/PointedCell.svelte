<!-- What is told of the cell under the pointer, in the words of the server. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';

	type Props = { seat: string; cell: Schemas['CellToldOut'] | undefined };
	let { seat, cell }: Props = $props();
</script>

<p class="min-w-0 flex-1" data-cell>
	{#if seat && cell}
		<a class="anchor" href="/seats/{seat}">{seat}</a>: {cell.words}{cell.since
			? `, since ${moment(cell.since)}`
			: ''}.
		{#if cell.status === 'off-norm'}<span class="quiet">Correction: {cell.fix}.</span>{/if}
	{:else if seat}
		<span class="quiet">{seat}</span>
	{:else}
		<span class="quiet"
			>Point at a cell or use the arrow keys: <kbd>n</kbd> next off norm, <kbd>space</kbd> select,
			<kbd>r</kbd> its row, <kbd>s</kbd> its seat, <kbd>g</kbd> its cause.</span
		>
	{/if}
</p>
