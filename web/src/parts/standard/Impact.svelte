<!-- What publishing would do to the house as it is: by setting, by room, by hardware class. -->
<script lang="ts">
	import type { Draft } from '../../state/draft.svelte';
	import { nameOf } from '../../model/words/names';
	import Shares from './Shares.svelte';

	type Props = { draft: Draft };
	let { draft }: Props = $props();

	const WORDS = {
		opens: 'new finding on',
		closes: 'resolved on',
		changes: 'different value on',
		unread: 'unknown on'
	};
	const FEW = 6;

	const impact = $derived(draft.told?.impact);
	const places = $derived(
		[
			{ title: 'By room', shares: impact?.rooms ?? [] },
			{ title: 'By hardware class', shares: impact?.classes ?? [] }
		].filter((place) => place.shares.length > 0)
	);
</script>

<div role="status" data-impact>
	{#if draft.asking && !impact}
		<p class="quiet">Checking every seat against this text…</p>
	{:else if impact}
		<p class="font-semibold" class:opacity-60={draft.asking}>{impact.sentence}</p>
		<!-- svelte-ignore a11y_no_noninteractive_tabindex (what scrolls must scroll by keys too) -->
		<div class="mt-2 max-h-80 overflow-y-auto" tabindex="0" aria-label="Effect" role="group">
			<ul>
				{#each impact.parts as part (part.setting + (part.app ?? '') + part.how)}
					<li class="border-t border-hair py-1">
						{part.app ? `${nameOf(part.app)} ` : ''}{part.title}
						<span class="quiet">{WORDS[part.how]}</span>
						<span class="value text-[0.87rem]"
							>{part.seats.slice(0, FEW).join(', ')}{part.count > FEW
								? `, and ${part.count - FEW} more`
								: ''}</span
						>
					</li>
				{/each}
			</ul>
			{#each places as place (place.title)}
				<Shares title={place.title} shares={place.shares} />
			{/each}
		</div>
		{#each draft.told?.warnings ?? [] as warning (warning.message + String(warning.line))}
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
