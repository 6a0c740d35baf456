<!-- A volume as a bar of its capacity, cut by store; free is what stays empty. -->
<script lang="ts">
	import { cutsOf, purposeWords, type Volume } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';

	type Props = { volume: Volume };
	let { volume }: Props = $props();

	const cuts = $derived(cutsOf(volume));
	const spoken = $derived(
		`${storage(volume.free)} free of ${storage(volume.capacity)}; ${volume.stores
			.map((store) => `${purposeWords(store.name)} ${storage(store.size)}`)
			.join(', ')}`
	);
</script>

<span class="bar" role="img" aria-label={spoken} title={spoken}>
	{#each cuts as cut (cut.name)}
		<span class="cut {cut.purpose}" style:width="{100 * cut.share}%"></span>
	{/each}
</span>

<style>
	.bar {
		display: flex;
		height: 16px;
		width: 100%;
		border: 1px solid var(--rule);
		background: var(--sheet);
	}
</style>
