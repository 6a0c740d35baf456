<!-- A volume in the list: whose it is, how full, and when it fills; it opens in place. -->
<script lang="ts">
	import type { Volume } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';
	import VolumeBar from './VolumeBar.svelte';
	import VolumeYear from './VolumeYear.svelte';

	type Props = { volume: Volume; open: boolean; onopen: () => void };
	let { volume, open, onopen }: Props = $props();
</script>

<li class="border-t border-hair py-1.5">
	<div class="line">
		<button type="button" class="text-left" aria-expanded={open} onclick={onopen}>
			<span class="font-semibold">{volume.seat}</span> <span class="value">{volume.mount}</span>
			<span class="quiet"
				>{volume.kind}{volume.system ? ', system' : ''}{volume.seats > 1
					? `, on ${volume.seats} seats`
					: ''}</span
			>
		</button>
		<VolumeBar {volume} />
		<span class="value whitespace-nowrap">{storage(volume.free)} free</span>
		<span>{volume.words}</span>
	</div>
	{#if open}<VolumeYear seat={volume.seat} volume={volume.volume} />{/if}
</li>

<style>
	.line {
		display: grid;
		grid-template-columns: 20rem minmax(8rem, 1fr) 8rem minmax(0, 19rem);
		gap: 0.2rem 1.2rem;
		align-items: center;
	}
	@media (max-width: 62rem) {
		.line {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
