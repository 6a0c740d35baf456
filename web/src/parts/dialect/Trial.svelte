<!-- What a dialect reads on a seat: a setting a line, or why it could not be read. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';

	type Props = { seat: string; tried: Schemas['TriedOut'][] };
	let { seat, tried }: Props = $props();
</script>

<h2 class="mt-5 text-base">Values read{seat ? ` on ${seat}` : ''}</h2>
<table class="mt-1 w-full text-left" aria-label="Values read">
	<tbody>
		{#each tried as row (row.setting + row.at + row.fault)}
			<tr class="border-t border-hair align-baseline">
				<td class="setting">{row.setting || row.fault}</td>
				<td class="value">{row.value ?? ''}<span class="quiet">{row.setting ? row.fault : ''}</span></td>
			</tr>
		{/each}
	</tbody>
</table>

<style>
	td {
		font-size: 0.88rem;
		padding-block: 0.2rem;
		overflow-wrap: anywhere;
	}
	tr {
		display: grid; /* a key has no place to break: its value stands below it */
	}
	.setting {
		padding-bottom: 0;
		color: var(--muted);
	}
</style>
