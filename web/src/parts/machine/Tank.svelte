<!-- A volume as a tank: how full it is, and which stores fill it. -->
<script lang="ts">
	import type { Facts, Store } from '../../model/words/facts';
	import { storage } from '../../model/words/sizes';

	type Props = { volume: NonNullable<Facts['volumes']>[number]; stores: Store[] };
	let { volume, stores }: Props = $props();

	const share = (part: number | undefined, whole: number | undefined): number =>
		whole ? (100 * (part ?? 0)) / whole : 0;
	const listed = (...parts: (string | undefined | false)[]): string => parts.filter(Boolean).join(', ');
</script>

<div class="mt-1.5">
	<p>
		<span class="value">{volume.mount}</span>
		<span class="quiet"
			>{listed(
				volume.id,
				volume.kind,
				volume.system && 'system',
				volume.removable && 'removable',
				volume.attached === false && 'not attached'
			)}</span
		>
	</p>
	<div class="tank" aria-hidden="true">
		<span class="used" style:width="{100 - share(volume.free, volume.capacity)}%"></span>
		{#each stores as store (store.path)}
			<span
				class="store"
				style:width="{share(store.size, volume.capacity)}%"
				style:right="{share(volume.free, volume.capacity)}%"
			></span>
		{/each}
	</div>
	<p class="quiet">{storage(volume.free ?? 0)} free of {storage(volume.capacity ?? 0)}</p>
	{#each stores as store (store.path)}
		<p class="quiet">
			{store.purpose.replace('_', ' ')} <span class="value">{store.path}</span>: {storage(store.size ?? 0)}, {storage(
				store.unused ?? 0
			)} unused
		</p>
	{/each}
</div>

<style>
	.tank {
		position: relative;
		height: 12px;
		border: 1px solid var(--rule);
		background: var(--sheet);
		margin-block: 0.15rem;
	}
	.used {
		position: absolute;
		inset-block: 0;
		left: 0;
		background: var(--hair);
	}
	.store {
		position: absolute;
		inset-block: 0;
		background: var(--whisper);
	}
</style>
