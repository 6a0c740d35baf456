<!-- What a plan does, a row for each equal change: readable at three hundred seats. -->
<script lang="ts">
	import { nameOf } from '../../model/words/names';
	import { seatsInShort, type SameChange } from '../../model/rollout/planGroups';

	type Props = { changes: SameChange[] };
	let { changes }: Props = $props();
</script>

<div class="mb-4 overflow-x-auto">
	<table class="w-full text-left" aria-label="Changes">
		<thead class="quiet"><tr><th>setting</th><th>now</th><th>after</th><th>on</th></tr></thead>
		<tbody>
			{#each changes as change (change.key)}
				<tr class="border-t border-hair align-baseline">
					<td>{change.title}{change.app ? `, ${nameOf(change.app)}` : ''}</td>
					<td class="value">{change.before}</td>
					<td
						><span class="value text-kelp">{change.after}</span>
						{#if change.rounder}<span class="quiet">or {change.rounder}</span>{/if}</td
					>
					<td title={change.seats.join(', ')}
						>{change.seats.length > 1 ? `${change.seats.length} seats: ` : ''}<span class="value"
							>{seatsInShort(change.seats)}</span
						></td
					>
				</tr>
			{/each}
		</tbody>
	</table>
</div>

<style>
	td,
	th {
		padding: 0.3rem 1rem 0.3rem 0;
		font-weight: normal;
		overflow-wrap: anywhere;
	}
	th:last-child {
		width: 34%;
	}
</style>
