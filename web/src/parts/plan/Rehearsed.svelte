<!-- What the seats of a plan say would happen there: every check, and no write. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { nameOf } from '../../model/words/names';

	type Props = { number: number };
	let { number }: Props = $props();

	const rehearsal = createQuery(() => ask.rehearsal(number));
	const MARKS = { would_do: '→', holds_it: '=', waits: '…', refused: '×', failed: '×' };
</script>

{#if rehearsal.data}
	<section class="mb-4 border-b border-hair pb-3" aria-labelledby="tried" data-rehearsed={number}>
		<h3 id="tried" class="text-base">Dry run</h3>
		<p role="status">{rehearsal.data.sentence}</p>
		<ul class="mt-1">
			{#each rehearsal.data.seats as seat (seat.seat)}{@render line(seat)}{/each}
		</ul>
	</section>
{/if}

{#snippet line(seat: Schemas['RehearsedSeatOut'])}
	<li class="grid grid-cols-[6rem_minmax(0,1fr)] gap-3 border-t border-hair py-1">
		<span class="font-semibold">{seat.seat}</span>
		{#if seat.told}
			<ul>
				{#each seat.lines as line (line.title + (line.app ?? ''))}
					<li class:text-sienna={line.outcome === 'refused' || line.outcome === 'failed'}>
						<span class="value" aria-hidden="true">{MARKS[line.outcome]}</span>
						{line.title}{line.app ? `, ${nameOf(line.app)}` : ''}: {line.words}
					</li>
				{:else}
					<li class="text-sienna">{seat.message}</li>
				{/each}
			</ul>
		{:else}
			<span class="quiet"
				>{seat.heard ? 'waiting' : 'not responding: the check runs if the seat returns within an hour'}</span
			>
		{/if}
	</li>
{/snippet}
