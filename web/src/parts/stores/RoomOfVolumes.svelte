<!-- A room's volumes, one below another; one of them may be open. -->
<script lang="ts">
	import type { Room } from '../../model/stores/bars';
	import { route } from '../../state/shell/route.svelte';
	import VolumeLine from './VolumeLine.svelte';

	type Props = { room: Room };
	let { room }: Props = $props();

	const open = $derived(route.query.get('open') ?? '');
	const lines = $derived(room.volumes.map((volume) => ({ volume, name: `${volume.seat}/${volume.volume}` })));
</script>

<section class="mb-6" aria-label={room.name}>
	<h2 class="mb-1 text-lg">{room.name}</h2>
	{#if !lines.length}<p class="quiet">No volume has a day on which it would be full.</p>{/if}
	<ul>
		{#each lines as { volume, name } (name)}
			<VolumeLine
				{volume}
				open={open === name}
				onopen={() => route.filter('open', open === name ? '' : name)}
			/>
		{/each}
	</ul>
</section>
