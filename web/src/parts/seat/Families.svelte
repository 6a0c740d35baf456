<!-- Every reading of a seat by family, and what could not be read. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import ReadingRow from './ReadingRow.svelte';

	type Row = Schemas['RowOut'];
	type Props = {
		record: Schemas['SeatRecordOut'];
		isPicked: (row: Row) => boolean;
		toggleOf: (row: Row) => (() => void) | undefined;
	};
	let { record, isPicked, toggleOf }: Props = $props();

	let opened = $state('');
	const keyOf = (row: Row): string => `${row.setting} ${row.app ?? ''}`;
</script>

<div>
	{#each record.families as family (family.family)}
		<section class="mb-4" aria-label={family.title}>
			<h2 class="mb-0.5 text-base">{family.title}</h2>
			{#each family.rows as row (keyOf(row))}
				<ReadingRow
					{row}
					selected={isPicked(row)}
					open={opened === keyOf(row)}
					ontoggle={toggleOf(row)}
					onopen={() => (opened = opened === keyOf(row) ? '' : keyOf(row))}
				/>
			{/each}
		</section>
	{/each}
	{#if record.errors.length}
		<section aria-label="Unreadable files">
			<h2 class="text-base">Unreadable</h2>
			{#each record.errors as error (error.source + error.message)}
				<p class="border-t border-hair py-1.5">
					<span class="value">{error.source}</span> <span class="quiet">{error.message}</span>
				</p>
			{/each}
		</section>
	{/if}
</div>
