<!-- Volumes, one below another; one of them may be open. -->
<script lang="ts">
	import type { Volume } from '../../model/stores/bars';
	import { route } from '../../state/shell/route.svelte';
	import VolumeLine from './VolumeLine.svelte';

	type Props = { volumes: Volume[]; weeks: number };
	let { volumes, weeks }: Props = $props();

	const open = $derived(route.query.get('open') ?? '');
	const lines = $derived(volumes.map((volume) => ({ volume, name: `${volume.seat}/${volume.volume}` })));
</script>

<ul>
	{#each lines as { volume, name } (name)}
		<VolumeLine
			{volume}
			{weeks}
			open={open === name}
			onopen={() => route.filter('open', open === name ? '' : name)}
		/>
	{/each}
</ul>
