<script lang="ts">
	import type { Draft } from '../state/draft.svelte';

	type Props = { draft: Draft };
	let { draft }: Props = $props();

	const moves = $derived([...(draft.told?.impact.opened ?? []), ...(draft.told?.impact.closed ?? [])]);
</script>

<div role="status" data-impact>
	{#if draft.asking}
		<p class="quiet">Judging every seat by this text…</p>
	{:else if draft.told}
		<p class="font-semibold">{draft.told.sentence}</p>
		<!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls must scroll by keys too) -->
		<ul class="mt-2 max-h-72 overflow-y-auto" tabindex="0" aria-label="Findings that would open and close">
			{#each moves as move (move.seat + move.setting + (move.app ?? '') + move.opens)}
				<li class="quiet">{move.opens ? 'opens' : 'closes'}: {move.seat}, {move.title}</li>
			{/each}
		</ul>
		{#each draft.told.warnings as warning (warning.message)}
			<p class="mt-2 text-sienna">{warning.line ? `Line ${warning.line}: ` : ''}{warning.message}</p>
		{/each}
	{:else}
		<p class="font-semibold text-oxblood">This text cannot be published.</p>
		{#each draft.faults as fault, index (index)}
			<p class="mt-2">
				<span class="value">{fault.line ?? '?'}:{fault.column ?? '?'}</span>
				{fault.message}{fault.expected ? `; expected ${fault.expected}` : ''}
			</p>
		{:else}
			<p class="mt-2">{draft.refused}</p>
		{/each}
	{/if}
</div>
