<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { nameOf } from '../../model/words/names';

	type Props = {
		seat: Schemas['SeatPlanOut'];
		inTheWay?: string[];
		closes?: string[];
		restarts?: boolean;
		headed?: boolean;
		onleaveout?: (() => void) | undefined;
	};
	let { seat, closes = [], restarts = false, headed = true, inTheWay = [], onleaveout }: Props = $props();

	const named = $derived(closes.map(nameOf).join(' and '));
	const needs = $derived(
		[named ? `${named} must be closed once` : '', restarts ? 'the machine restarts once' : '']
			.filter(Boolean)
			.join(', ')
	);
</script>

<section class="mb-5">
	{#if headed}
		<h3 class="flex items-baseline gap-3">
			{seat.seat}
			{#if seat.changes.length}
				<span class="quiet font-normal">{needs || 'no application has to be closed'}</span>
			{/if}
			{#if onleaveout}
				<button class="anchor ml-auto text-sm font-normal underline" onclick={onleaveout}
					>Skip<span class="sr-only"> {seat.seat}</span></button
				>
			{/if}
		</h3>
	{/if}
	{#each inTheWay as way (way)}
		<p class="text-sm text-sienna" data-way>{way}.</p>
	{/each}
	{#if seat.changes.length}
		<div class="overflow-x-auto">
			<table class="mt-1 w-full text-left">
				<thead class="quiet">
					<tr><th>setting</th><th>{headed ? 'now' : 'before'}</th><th>after</th><th>where</th></tr>
				</thead>
				<tbody>
					{#each seat.changes as change (change.setting + (change.app ?? ''))}
						<tr class="border-t border-hair align-top">
							<td
								>{change.title}{change.app ? `, ${nameOf(change.app)}` : ''}<br /><span class="quiet"
									>{change.shown_before} → {change.shown_after}{change.shown_rounder
										? `; ${change.shown_rounder} is within the norm too`
										: ''}</span
								></td
							>
							<td class="value">{change.before || '(empty)'}</td>
							<td class="value text-kelp">{change.after || '(empty)'}</td>
							<td class="value quiet">
								{change.file}{change.line ? `:${change.line}` : ''} <span class="block">{change.at}</span>
								{@render besides(change)}
							</td>
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
	{/if}
	{#each seat.left as left (left.setting + (left.app ?? ''))}
		<p class="quiet mt-1">
			{#if left.errand}
				Errand: {left.errand}.
			{:else}
				Not in this plan: {left.setting}{left.app ? `, ${nameOf(left.app)}` : ''}: {left.why}.
			{/if}
		</p>
	{/each}
</section>

{#snippet besides(change: Schemas['ChangeOut'])}
	{#if change.driver && !change.driver.older}
		<span class="said text-sienna">cannot be undone: there is no package of the current driver</span>
	{/if}
	{#if change.template}
		<span class="said">the whole file is replaced after a backup</span>
	{/if}
	{#if change.volume}
		<span class="said">its files are copied to {change.volume} and verified first</span>
	{/if}
{/snippet}

<style>
	.said {
		display: block;
		font-family: var(--typo-base--font-family);
	}
	th {
		font-weight: normal;
		padding-block: 0.2rem;
	}
	td {
		padding: 0.35rem 0.8rem 0.35rem 0;
	}
	td {
		overflow-wrap: anywhere;
	}
	th:first-child {
		width: 29%;
	}
	th:last-child {
		width: 33%;
	}
	@media (min-width: 760px) {
		table {
			table-layout: fixed;
		}
	}
</style>
