<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import LedgerFilters from '../../parts/ledger/LedgerFilters.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import { detailOf } from '../../model/words/detail';
	import { exactly } from '../../model/words/moment';
	import TableLinks from '../../parts/ui/TableLinks.svelte';
	import { route } from '../../state/shell/route.svelte';

	const PAGE = 100;
	const offset = $derived(Number(route.query.get('from') ?? 0));
	const wanted = $derived({
		actor: route.query.get('who') ?? '',
		action: route.query.get('act') ?? '',
		seat: route.query.get('seat') ?? '',
		day: route.query.get('day') ?? ''
	});
	const ledger = createQuery(() => ({ ...ask.ledger(offset, wanted), placeholderData: keepPreviousData }));
	const head = createQuery(ask.ledgerHead);
</script>

<svelte:head><title>Ledger · Normant</title></svelte:head>
<h1 class="mb-1 text-2xl">Ledger</h1>
<p class="quiet mb-3">
	All actions, newest first. Entries never change; each contains the hash of the one before.
</p>
{#if head.data}
	<p class="quiet mb-3" data-head>
		Signed {exactly(head.data.at)}with {head.data.entries} entries, last hash
		<span class="value" title={head.data.digest}>{head.data.digest.slice(0, 16)}</span>by key
		<span class="value">{head.data.fingerprint}</span>. Save
		<a class="anchor underline" href="/api/v1/ledger/head" download="ledger-head.json">this checkpoint</a> elsewhere
		to detect entries that are removed later.
	</p>
{/if}
<LedgerFilters {wanted} />
<Ask of={ledger}>
	{#snippet children(found)}
		<div class="overflow-x-auto">
			<table class="w-full text-left">
				<thead class="quiet"><tr><th>when</th><th>action</th><th>hash</th></tr></thead>
				<tbody>
					{#each found.items as entry (entry.id)}
						<tr class="border-t border-hair align-top">
							<td class="value whitespace-nowrap">{exactly(entry.at)}</td>
							<td class="w-full wrap-anywhere"
								>{entry.sentence}
								{#if detailOf(entry.detail)}
									<details class="quiet">
										<summary>Show details</summary>
										<p>{detailOf(entry.detail)}</p>
									</details>
								{/if}</td
							>
							<td class="value quiet" title={entry.digest}>{entry.digest.slice(0, 8)}</td>
						</tr>
					{:else}
						<tr><td colspan="3">No matching entries.</td></tr>
					{/each}
				</tbody>
			</table>
		</div>
		<p class="quiet mt-4 flex flex-wrap gap-4">
			<TableLinks path="/api/v1/ledger" query={{ offset: String(offset), limit: '1000' }} />
			<a class="anchor underline" href="/api/v1/ledger/whole" download>Complete ledger, to verify elsewhere</a
			>
			{found.total ? offset + 1 : 0} to {offset + found.items.length} of {found.total}
			{#if offset > 0}<button
					class="anchor"
					onclick={() => route.filter('from', String(Math.max(0, offset - PAGE)))}>newer</button
				>{/if}
			{#if offset + PAGE < found.total}<button
					class="anchor"
					onclick={() => route.filter('from', String(offset + PAGE))}>older</button
				>{/if}
		</p>
	{/snippet}
</Ask>

<style>
	th {
		font-weight: normal;
	}
	/* On a phone an entry is a few lines below one another, and its hash goes: the row of a table is too wide. */
	@media (max-width: 640px) {
		thead,
		td:nth-child(3) {
			display: none;
		}
		tr,
		td {
			display: block;
		}
	}
	td,
	th {
		padding: 0.3rem 1rem 0.3rem 0;
		font-size: 0.92rem;
	}
</style>
