<!-- Why the last act of a view was refused. -->
<script lang="ts">
	import type { Acts } from '../../state/acts.svelte';

	type Props = { acts: Acts; class?: string };
	let { acts, class: more = '' }: Props = $props();
</script>

{#if acts.refused}<p class="text-oxblood {more}" role="alert">{acts.refused}</p>{/if}
