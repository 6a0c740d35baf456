<!-- What a seat found unused in a store: each file goes unless it is kept. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';
	import { filesOf, storage } from '../../model/words/sizes';

	type Props = {
		listing: NonNullable<Schemas['StoreOrderOut']['listed']>;
		staying: ReadonlySet<string>;
		fixed: boolean;
		onmark: (path: string, goes: boolean) => void;
	};
	let { listing, staying, fixed, onmark }: Props = $props();

	const FIRST = 24;
	let whole = $state(false);
	const shown = $derived(whole ? listing.items : listing.items.slice(0, FIRST));
</script>

<p role="status" data-listed>
	{#if !listing.count}
		There is nothing in <span class="value">{listing.folder}</span>.
	{:else if !listing.unused}
		Everything in <span class="value">{listing.folder}</span> has been used since.
	{:else}
		{listing.unused} of {filesOf(listing.count)} in <span class="value">{listing.folder}</span>
		{listing.unused === 1 ? 'was' : 'were'} not used since: {storage(listing.unused_size)} of
		{storage(listing.size)}.
	{/if}
	{#if listing.items.length < listing.unused}The largest {listing.items.length} are listed.{/if}
</p>
{#if listing.items.length}
	<table class="mt-2 w-full text-left" aria-label="Unused files">
		<thead class="quiet">
			<tr><th>delete</th><th>file</th><th class="figure">size</th><th>used last</th></tr>
		</thead>
		<tbody>
			{#each shown as item (item.path)}
				<tr class="border-t border-hair" class:stays={staying.has(item.path)}>
					<td
						><input
							type="checkbox"
							aria-label="Delete {item.path}"
							checked={!staying.has(item.path)}
							disabled={fixed}
							onchange={(event) => onmark(item.path, event.currentTarget.checked)}
						/></td
					>
					<td class="value">{item.path}</td>
					<td class="value figure">{storage(item.size)}</td>
					<td>{moment(item.used_at)}</td>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if !whole && listing.items.length > FIRST}
		<button class="anchor mt-2 underline" onclick={() => (whole = true)}
			>Show {listing.items.length - FIRST} more</button
		>
	{/if}
{/if}

<style>
	th {
		font-weight: normal;
		padding-right: 0.8rem;
	}
	table {
		max-width: 42rem;
	}
	td {
		padding: 0.25rem 0.8rem 0.25rem 0;
	}
	.figure {
		text-align: right;
	}
	.stays .value {
		color: var(--muted);
		text-decoration: line-through;
	}
</style>
