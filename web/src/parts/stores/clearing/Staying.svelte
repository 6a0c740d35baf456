<!-- Kept: the heaviest reasons first. -->
<script lang="ts">
	import type { Clearing } from '../../../model/stores/clearing';
	import { storage } from '../../../model/words/sizes';

	type Props = { plan: Clearing };
	let { plan }: Props = $props();

	const FEW = 7;
	let all = $state(false);
	const shown = $derived(all ? plan.stays : plan.stays.slice(0, FEW));
</script>

<section aria-label="Kept, with reasons">
	<h2 class="mb-1 text-lg">Kept</h2>
	<ul>
		{#each shown as reason (reason.why)}
			<li class="flex gap-4 border-t border-hair py-0.5">
				<span class="flex-1">{reason.why}</span>
				<span class="value whitespace-nowrap">{storage(reason.size)}</span>
			</li>
		{:else}
			<li class="border-t border-hair">No stores scanned yet.</li>
		{/each}
	</ul>
	{#if plan.stays.length > FEW && !all}
		<button class="anchor mt-1 underline" onclick={() => (all = true)}>
			{plan.stays.length - FEW === 1 ? '1 more reason' : `${plan.stays.length - FEW} more reasons`}
		</button>
	{/if}
</section>
