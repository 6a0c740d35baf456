<!-- The seat's volumes to scale with its stores in them: drag a store to another, or move it with the arrow keys. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { purposeWords } from '../../model/stores/bars';
	import { drawnVolumes, volumeOf, type DrawnVolume, type Places } from '../../model/stores/placement';
	import { storage } from '../../model/words/sizes';

	type Props = {
		found: Schemas['PlacementOut'];
		on: Places;
		onplace: (store: string, volume: string) => void;
	};
	let { found, on, onplace }: Props = $props();

	const drawn = $derived(drawnVolumes(found.volumes, found.stores, on));
	let dragged = $state('');
	const refusalOf = (store: string, volume: string): string => found.refused[store]?.[volume] ?? '';
	const tintOf = (store: Schemas['StorePlaceOut']): string => store.name.split(' ').at(-1) ?? '';
	const aboutOf = ({ volume, toScale }: DrawnVolume): string =>
		[
			volume.kind,
			volume.system ? 'system volume' : '',
			volume.capacity === null ? '' : storage(volume.capacity),
			volume.free === null ? '' : `${storage(volume.free)} free`,
			toScale ? '' : 'not to scale'
		]
			.filter(Boolean)
			.join(', ');

	function step(event: KeyboardEvent, store: Schemas['StorePlaceOut']): void {
		const way = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
		const next = found.volumes[found.volumes.findIndex(({ id }) => id === volumeOf(store, on)) + way];
		if (!way || !next) return;
		event.preventDefault();
		onplace(store.name, next.id);
	}

	function over(event: DragEvent): void {
		if (dragged) event.preventDefault();
	}

	function drop(volume: string): void {
		if (dragged) onplace(dragged, volume);
		dragged = '';
	}
</script>

<div class="board" role="group" aria-label="Stores on volumes">
	{#each drawn as place (place.volume.id)}
		<section
			class="volume"
			aria-label="{place.volume.mount} ({place.volume.id})"
			ondragover={over}
			ondrop={() => drop(place.volume.id)}
			role="group"
		>
			<p class="value font-semibold break-all">{place.volume.mount}</p>
			<p class="quiet text-sm">{aboutOf(place)}</p>
			<div
				class="box"
				class:refuses={dragged && refusalOf(dragged, place.volume.id)}
				style:height="{24 * place.height}rem"
			>
				<span class="free" style:flex-grow={place.free}></span>
				{#each place.leaving as { store, share } (store.name)}
					<span class="leaving quiet" style:flex-grow={share}>{purposeWords(store.name)} moves</span>
				{/each}
				{#each place.stores as { store, share, moved } (store.name)}
					{@render block(store, share, moved)}
				{/each}
				{#if place.rest > 0}
					<span class="rest" style:flex-grow={place.rest}>
						{place.volume.system ? 'System and other files' : 'Everything else'}
						<span class="value">{storage(place.rest * (place.volume.capacity ?? 0))}</span>
					</span>
				{/if}
			</div>
			{#if place.over}<p class="text-sienna">{storage(place.over)} more than the volume holds</p>{/if}
			{#if dragged}<p class="text-sienna">{refusalOf(dragged, place.volume.id)}</p>{/if}
		</section>
	{/each}
</div>

{#snippet block(store: Schemas['StorePlaceOut'], share: number, moved: boolean)}
	<button
		class="store cut {tintOf(store)}"
		class:moved
		style:flex-grow={share}
		draggable="true"
		data-store={store.name}
		aria-label="{purposeWords(store.name)}, {storage(store.size)}: use left and right to move"
		ondragstart={() => (dragged = store.name)}
		ondragend={() => (dragged = '')}
		onkeydown={(event) => step(event, store)}
	>
		<span class="label">{purposeWords(store.name)} <span class="value">{storage(store.size)}</span></span>
	</button>
{/snippet}

<style>
	.board {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(11rem, 1fr));
		gap: 1rem;
		align-items: end;
	}
	.box {
		display: flex;
		flex-direction: column;
		border: 1px solid var(--muted);
		background: var(--sheet);
		margin-top: 0.3rem;
		overflow: hidden;
	}
	.box.refuses {
		border-color: var(--sienna);
	}
	.box > * {
		flex-basis: 0;
		width: 100%;
	}
	.rest,
	.leaving {
		padding: 0.15rem 0.5rem;
		font-size: 0.9rem;
		overflow: hidden;
		min-height: 1.7rem;
	}
	.rest {
		background: var(--wash);
	}
	.leaving {
		border-block: 1px dashed var(--rule);
	}
	.store {
		min-height: 1.8rem;
		border-top: 1px solid var(--paper);
		cursor: grab;
		text-align: left;
		display: flex;
		align-items: flex-start;
	}
	.label {
		display: flex;
		justify-content: space-between;
		gap: 0.5rem;
		width: 100%;
		margin-left: 10px;
		padding: 0.1rem 0.5rem;
		background: var(--sheet);
		border-bottom: 1px solid var(--hair);
		font-size: 0.9rem;
	}
	.store.moved .label {
		font-weight: 600;
	}
	@media (max-width: 40rem) {
		.board {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
