<!-- Two sides of drift: what is off norm, and what of it was accepted. The one that is shown says how it stands. -->
<script lang="ts">
	import { route } from '../../state/shell/route.svelte';

	type Props = { says: string };
	let { says }: Props = $props();

	const TABS = [
		['Drift', '/drift'],
		['Waivers', '/drift/waivers']
	] as const;
</script>

<div class="mb-3 flex flex-wrap items-baseline gap-x-5">
	<h1 class="text-[1.55rem]" data-sentence>{says}</h1>
	{#each TABS as [name, address] (name)}
		{#if route.path !== address}<a class="anchor" href={address}>{name}</a>{/if}
	{/each}
</div>
