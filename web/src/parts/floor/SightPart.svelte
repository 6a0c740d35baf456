<!-- A part of the floor: it keeps its place, and draws what is in it while it is in sight. -->
<script lang="ts">
	import type { Snippet } from 'svelte';
	import type { Sight } from '../../state/sight.svelte';

	type Props = {
		tag: 'div' | 'ul';
		count: number;
		whole: boolean;
		sight: Sight;
		onsight?: () => () => void;
		children: Snippet;
	};
	let { tag, count, whole, sight, onsight, children }: Props = $props();

	let near = $state(false);
	const shown = $derived(whole || near);

	$effect(() => (shown ? onsight?.() : undefined));
</script>

<svelte:element
	this={tag}
	class={tag}
	style:--count={count}
	{@attach sight.watch((inSight) => (near = inSight))}
>
	{#if shown}{@render children()}{/if}
</svelte:element>

<style>
	.div,
	.ul {
		--gap: 0.55rem;
		/* What is drawn later moves nothing else. */
		height: calc(round(up, var(--count) / var(--columns), 1) * (var(--card) + var(--gap)) - var(--gap));
		contain: strict;
	}
	:global(.div + .div),
	:global(.ul + .ul) {
		margin-top: var(--gap);
	}
	.ul {
		display: grid;
		grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
		gap: var(--gap);
	}
</style>
