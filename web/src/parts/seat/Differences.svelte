<!-- What differs, ranked; the first few, the rest folded. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { nameOf } from '../../model/words/names';

	type Row = Schemas['DifferenceOut'];
	/** `tried` is the address of a trial of the other value, `oncorrect` plans the correction of a finding. */
	type Props = {
		rows: Row[];
		mine: string;
		theirs: string;
		tried?: (row: Row) => string;
		oncorrect?: ((finding: number) => void) | undefined;
	};
	let { rows, mine, theirs, tried = () => '', oncorrect }: Props = $props();

	const FIRST = 8;
	const WIDTH = 14; // pixels of a bit
	let all = $state(false);
	const shown = $derived(all ? rows : rows.slice(0, FIRST));
</script>

{#if rows.length}
	<div class="overflow-x-auto">
		<table class="w-full text-left" aria-label="Differences">
			<thead class="quiet">
				<tr
					><th>setting</th><th>{mine}</th><th>{theirs}</th><th>peers with the value of {mine}</th><th
						>likely effect</th
					></tr
				>
			</thead>
			<tbody>
				{#each shown as row (row.setting + (row.app ?? ''))}
					{@render line(row)}
				{/each}
			</tbody>
		</table>
	</div>
	{#if rows.length > FIRST}
		<button class="anchor mt-2" onclick={() => (all = !all)}>
			{all ? 'Show fewer' : `Show ${rows.length - FIRST} more`}
		</button>
	{/if}
{/if}

{#snippet line(row: Row)}
	<tr class="border-t border-hair" class:idle={row.score <= 0}>
		<td>{row.title}{row.app ? `, ${nameOf(row.app)}` : ''}</td>
		<td class="value">{row.mine ?? 'unknown'}</td>
		<td class="value">{row.theirs ?? 'unknown'}</td>
		<td class="quiet">{row.peers ? `${row.sharing} of ${row.peers}` : 'no peers'}</td>
		<td class="whitespace-nowrap">
			<span class="score" style:width="{Math.max(2, row.score * WIDTH)}px" aria-hidden="true"></span>
			<span class="quiet">{row.effect}{row.measured ? ', measured' : ''}</span>
			{#if oncorrect && row.finding !== null}{@render correct(row.finding, row.title, oncorrect)}{/if}
			{#if tried(row)}<a class="anchor ml-2" href={tried(row)}>Run a trial</a>{/if}
		</td>
	</tr>
{/snippet}

{#snippet correct(finding: number, title: string, plan: (finding: number) => void)}
	<button class="anchor ml-2" aria-label="Correct {title}" onclick={() => plan(finding)}>Correct</button>
{/snippet}

<style>
	td,
	th {
		padding: 0.35rem 1.4rem 0.35rem 0;
		font-weight: normal;
		vertical-align: baseline;
	}
	.idle {
		color: var(--muted);
	}
	.score {
		display: inline-block;
		height: 8px;
		margin-right: 0.4rem;
		background: var(--sienna);
	}
	.idle .score {
		background: var(--hair);
	}
</style>
