<!-- Two sides of drift: what is off norm, and what of it was accepted. -->
<script lang="ts">
	import { route } from '../state/route.svelte';

	const TABS = [
		['Drift', '/drift'],
		['Waivers', '/drift/waivers']
	] as const;
</script>

<div class="mb-3 flex items-baseline gap-5">
	{#each TABS as [name, address] (name)}
		{#if route.path === address}
			<h1 class="text-2xl">{name}</h1>
		{:else}
			<a class="other" href={address}>{name}</a>
		{/if}
	{/each}
</div>

<style>
	.other {
		color: var(--muted);
		font-family: var(--font-head);
		font-size: 1.15rem;
	}
</style>
