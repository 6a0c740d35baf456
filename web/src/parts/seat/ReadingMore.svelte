<!-- Behind a reading: the native file and line, the rules that made its norm, and the sums. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';

	type Props = { row: Schemas['RowOut'] };
	let { row }: Props = $props();
</script>

<div class="more">
	<p class="quiet">{row.help}</p>
	{#if row.native}
		<p class="mt-1">
			File <span class="value" data-native
				>{row.native.file}{row.native.line ? `, line ${row.native.line}` : ''}</span
			>
			at <span class="value">{row.native.at}</span> stands
			<span class="value">{row.native.raw === '' ? 'nothing' : `"${row.native.raw}"`}</span>.
		</p>
	{:else if row.entered_by}
		<p class="mt-1 quiet">Entered by {row.entered_by}; no dialect reads it.</p>
	{:else if row.status !== 'unread'}
		<p class="mt-1 quiet">Reported by the system, not by a file.</p>
	{/if}
	{#if row.because}<p class="mt-1">{row.because}</p>{/if}
	{#if row.status === 'off-norm'}<p class="mt-1">
			Correction: <span class="value">{row.fix}</span>
		</p>{/if}
	{#if row.chain.length}
		<ol class="mt-2">
			{#each row.chain as link, index (index)}
				<li>
					<span class="quiet"
						>{link.layer} {link.outcome === 'made' ? 'requires' : `required (${link.outcome})`}</span
					> <span class="value">{link.sentence}</span>
				</li>
			{/each}
		</ol>
	{/if}
	{#if row.rule || row.steps.length}
		<details class="mt-2">
			<summary class="anchor">Show rule</summary>
			{#if row.rule}<p class="value mt-1">{row.rule}</p>{/if}
			<table class="mt-1">
				<tbody>
					{#each row.steps as { part, result } (part)}
						<tr><td class="value pr-4">{part}</td><td class="value">{result}</td></tr>
					{/each}
				</tbody>
			</table>
		</details>
	{/if}
</div>

<style>
	.more {
		margin: 0.1rem 0 0.6rem 2.4rem;
		padding: 0.5rem 0.9rem;
		background: var(--sheet);
		border-left: 2px solid var(--kelp);
		font-size: 0.93rem;
	}
	td {
		padding-block: 0.05rem;
		font-size: 0.85rem;
	}
</style>
