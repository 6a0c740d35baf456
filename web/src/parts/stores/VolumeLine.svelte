<!-- A volume in the list: what fills it, its year and when it is full; it opens in place. -->
<script lang="ts">
	import type { Volume } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';
	import VolumeBar from './VolumeBar.svelte';
	import VolumeYear from './VolumeYear.svelte';
	import YearLine from './YearLine.svelte';

	type Props = { volume: Volume; weeks: number; open: boolean; onopen: () => void };
	let { volume, weeks, open, onopen }: Props = $props();

	const about = $derived(
		[
			volume.kind,
			volume.system ? 'system' : '',
			storage(volume.capacity),
			volume.seats > 1 ? `on ${volume.seats} seats` : ''
		]
			.filter(Boolean)
			.join(', ')
	);
</script>

<li class="border-t border-hair py-1.5">
	<div class="line">
		<button type="button" class="name text-left" aria-expanded={open} onclick={onopen}>
			<span class="font-semibold">{volume.seat}</span> <span class="value">{volume.mount}</span>
			<span class="quiet block text-sm">{about}</span>
		</button>
		<VolumeBar {volume} />
		<span class="value text-right whitespace-nowrap">{storage(volume.free)}</span>
		<YearLine {volume} {weeks} />
		<span class:text-oxblood={volume.free === 0} class:font-semibold={volume.free === 0}
			>{volume.words}{#if volume.words}<a
					class="anchor block text-sm font-normal"
					href="/stores/clearings?seat={volume.seat}">Plan clean-up</a
				>{/if}</span
		>
	</div>
	{#if open}<VolumeYear seat={volume.seat} volume={volume.volume} />{/if}
</li>

<style>
	.line {
		display: grid;
		grid-template-columns: var(--volume-columns);
		gap: 0.2rem 1.4rem;
		align-items: center;
	}
	.name {
		overflow-wrap: anywhere;
	}
	@media (max-width: 62rem) {
		.line {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
