<!-- How much of what a draft would do falls to each room, or each hardware class. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';

	type Props = { title: string; shares: Schemas['ShareOfOut'][] };
	let { title, shares }: Props = $props();
</script>

<table class="mt-2 w-full text-left text-[0.87rem]">
	<thead class="quiet"><tr><th>{title}</th><th>new</th><th>resolved</th><th>different</th></tr></thead>
	<tbody>
		{#each shares as share (share.name)}
			<tr class="border-t border-hair">
				<td>{share.name || 'none'}</td>
				<td class="value">{share.opens || ''}</td>
				<td class="value">{share.closes || ''}</td>
				<td class="value">{share.changes || ''}</td>
			</tr>
		{/each}
	</tbody>
</table>

<style>
	th {
		font-weight: normal;
	}
</style>
