<!-- Why an edit of the standard was refused: each fault with what was expected. -->
<script lang="ts">
	import type { Acts } from '../../state/acts.svelte';

	type Props = { acts: Acts };
	let { acts }: Props = $props();

	const faults = $derived(acts.problem?.faults ?? []);
</script>

{#if acts.refused}
	<div class="w-full text-oxblood" role="alert">
		{#each faults as { message, expected }, number (number)}
			<p>{message}{expected ? `. Expected: ${expected}` : ''}.</p>
		{:else}
			<p>{acts.refused}</p>
		{/each}
	</div>
{/if}
