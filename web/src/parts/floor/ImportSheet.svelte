<!-- A table for the register: what it would change, every fault by row and column, and nothing until it is whole. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { readAnew } from '../../api/anew';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	const FIRST = 60;
	let file = $state<File>();
	let told = $state<Schemas['ImportOut']>();
	const acts = new Acts();

	const steps = $derived((told?.rows ?? []).filter((row) => row.new || row.changes.length));
	const idle = $derived((told?.rows.length ?? 0) - steps.length);

	async function send(apply: boolean): Promise<void> {
		const table = file;
		if (!table) return;
		const done = await acts.do(async () => {
			told = await write.importTable(table, apply);
		});
		if (!done) told = undefined;
		if (!told?.applied) return;
		await readAnew(['seat']);
		onclose();
	}

	function choose(event: Event & { currentTarget: HTMLInputElement }): void {
		file = event.currentTarget.files?.[0];
		void send(false);
	}

	const change = (cell: Schemas['CellOut']): string =>
		cell.before || !cell.after
			? `${cell.column.replaceAll('_', ' ')} ${cell.before} changes to ${cell.after || 'empty'}`
			: `${cell.column.replaceAll('_', ' ')} ${cell.after}`;
</script>

<Sheet title="Import the register" {onclose} wide>
	<label class="block">
		A CSV or XLSX table. Columns, named in the first row: seat, role, room, production, hardware_class, tags.
		<input class="field mt-2 w-full" type="file" accept=".csv,.xlsx,text/csv" onchange={choose} />
	</label>
	<Refused {acts} class="mt-3" />
	{#if told}
		{#if told.faults.length}
			{@render faulty(told.faults)}
		{/if}
		<h3 class="mt-4">
			{steps.length}
			{steps.length === 1 ? 'seat would change' : 'seats would change'}{idle ? `, ${idle} unchanged` : ''}
		</h3>
		<ul>
			{#each steps.slice(0, FIRST) as row (row.row)}
				<li class="border-t border-hair py-1">
					<b>{row.seat}</b>
					<span class="quiet">{row.new ? 'new: ' : ''}{row.changes.map(change).join('; ')}</span>
				</li>
			{/each}
		</ul>
		{#if steps.length > FIRST}<p class="quiet">and {steps.length - FIRST} more</p>{/if}
		<button class="do mt-4" disabled={told.faults.length > 0 || !steps.length} onclick={() => send(true)}>
			Import register
		</button>
	{/if}
</Sheet>

{#snippet faulty(faults: Schemas['ImportOut']['faults'])}
	<div role="alert">
		<h3 class="mt-4">
			{faults.length}
			{faults.length === 1 ? 'fault' : 'faults'}; nothing was imported
		</h3>
		<table class="mt-1 w-full text-left">
			<thead class="quiet"><tr><th>row</th><th>column</th><th>what</th><th>expected</th></tr></thead>
			<tbody>
				{#each faults as fault, index (index)}
					<tr class="border-t border-hair">
						<td class="value">{fault.line}</td>
						<td class="value">{fault.column}{fault.path ? `, ${fault.path}` : ''}</td>
						<td>{fault.message}</td>
						<td class="quiet">{fault.expected}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</div>
{/snippet}

<style>
	td,
	th {
		padding: 0.25rem 1rem 0.25rem 0;
		font-weight: normal;
	}
</style>
