<!-- The pages of Measure. -->
<script lang="ts">
	import { route } from '../../state/shell/route.svelte';

	const PAGES = [
		['Trials', '/measure'],
		['Memory planner', '/measure/memory'],
		['Decode routes', '/measure/routes'],
		['Timelines', '/measure/timelines'],
		['Reference clips', '/measure/clips']
	] as const;
</script>

<nav class="mb-5 flex flex-wrap gap-x-6 border-b border-hair" aria-label="Measure pages">
	{#each PAGES as [name, address] (name)}
		<a class="page" href={address} aria-current={route.path === address ? 'page' : undefined}>{name}</a>
	{/each}
</nav>

<style>
	.page {
		color: var(--muted);
		text-decoration: none;
		padding-block: 0.3rem;
		border-bottom: 2px solid transparent;
	}
	.page[aria-current] {
		color: var(--ink);
		border-color: var(--kelp);
	}
</style>
