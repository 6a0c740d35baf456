<!-- A plan in numbers, by kind of store: what is there, what goes, and what has gone. -->
<script lang="ts">
	import { purposeWords } from '../../../model/stores/bars';
	import type { Clearing } from '../../../model/stores/clearing';
	import { storage } from '../../../model/words/sizes';

	type Props = { plan: Clearing };
	let { plan }: Props = $props();

	const signed = $derived(plan.signed_at !== null);
	const cell = 'value whitespace-nowrap pl-3 text-right';
</script>

<section aria-label="To be deleted">
	<h2 class="mb-1 text-lg">To be deleted</h2>
	<table class="w-full">
		<thead>
			<tr class="quiet text-left">
				<th scope="col">Store</th>
				<th scope="col" class="text-right">size</th>
				<th scope="col" class="text-right">to delete</th>
				<th scope="col" class="text-right">files</th>
				{#if signed}<th scope="col" class="text-right">deleted</th>{/if}
			</tr>
		</thead>
		<tbody>
			{#each plan.kinds as row (row.kind)}
				<tr class="border-t border-hair">
					<td>
						<span class="swatch {row.kind}"></span>
						{purposeWords(row.kind)}
						<span class="quiet">{row.making}{row.again ? `: ${row.again}` : ''}</span>
					</td>
					<td class={cell}>{storage(row.size)}</td>
					<td class={cell}>{storage(row.going_size)}</td>
					<td class={cell}>{row.going.toLocaleString('en')}</td>
					{#if signed}<td class={cell}>{storage(row.cleared_size)}</td>{/if}
				</tr>
			{:else}
				<tr class="border-t border-hair"><td colspan="4">No answers from seats yet.</td></tr>
			{/each}
		</tbody>
	</table>
</section>
