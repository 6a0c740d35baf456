<!-- Every seat by how it plays a timeline; those that are chosen show their profile. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { lengthOf } from '../../../model/measure/timeline';

	type Props = { seats: Schemas['SeatPlaysOut'][]; chosen: string[]; onchoose: (seat: string) => void };
	let { seats, chosen, onchoose }: Props = $props();

	const FIRST = 8;
	let all = $state(false);
	const known = $derived(seats.filter((row) => !row.unmeasured.length));
	const shown = $derived(all ? seats : seats.slice(0, Math.min(FIRST, Math.max(known.length, 3))));
	const lacking = $derived(shown.some((row) => row.unmeasured.length));
	function verdict(row: Schemas['SeatPlaysOut']): string {
		if (!row.plays) return `${lengthOf(row.over_seconds)} not in real time (${row.limited_by})`;
		return row.unmeasured.length ? 'yes, as far as measured' : 'plays';
	}
</script>

<table class="w-full">
	<caption class="sr-only">Seats by playback</caption>
	<thead class="quiet">
		<tr
			><th>Seat</th><th>Class</th><th class="figure">Highest load</th><th>Real time</th>{#if lacking}<th
					>Not measured</th
				>{/if}</tr
		>
	</thead>
	<tbody>
		{#each shown as row (row.seat)}
			<tr>
				<th scope="row">
					<button
						class="anchor underline"
						aria-pressed={chosen.includes(row.seat)}
						class:chosen={chosen.includes(row.seat)}
						onclick={() => onchoose(row.seat)}>{row.seat}</button
					>
				</th>
				<td class="quiet">{row.hardware_class}{row.by_class ? ' (from its class)' : ''}</td>
				<td class="value figure whitespace-nowrap">{Math.round(100 * row.worst)} %</td>
				<td class:text-oxblood={!row.plays}>{verdict(row)}</td>
				{#if lacking}<td class="quiet">{row.unmeasured.join(', ')}</td>{/if}
			</tr>
		{/each}
	</tbody>
</table>
{#if seats.length > shown.length}
	<button class="anchor mt-1 underline" onclick={() => (all = true)}
		>Show {seats.length - shown.length} more</button
	>
{/if}
{#if seats.length > known.length}
	<p class="quiet mt-1">
		The decode rates of {seats.length - known.length} seats are unknown. A decode trial on one seat measures its
		whole class.
	</p>
{/if}

<style>
	th,
	td {
		text-align: left;
		padding: 0.2rem 1.2rem 0.2rem 0;
	}
	tbody tr {
		border-top: 1px solid var(--hair);
	}
	.figure {
		text-align: right;
	}
	.chosen {
		font-weight: 700;
	}
</style>
