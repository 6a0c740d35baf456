<!-- The seat's volumes with its stores on them: drag a store to another, or move it with the arrow keys. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { purposeWords } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';

	type Props = {
		found: Schemas['PlacementOut'];
		on: Record<string, string>;
		onplace: (store: string, volume: string) => void;
	};
	let { found, on, onplace }: Props = $props();

	let dragged = $state('');
	const volumeOf = (store: Schemas['StorePlaceOut']): string => on[store.name] ?? store.now ?? '';
	const refusalOf = (store: string, volume: string): string => found.refused[store]?.[volume] ?? '';

	function step(event: KeyboardEvent, store: Schemas['StorePlaceOut']): void {
		const way = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
		const next = found.volumes[found.volumes.findIndex(({ id }) => id === volumeOf(store)) + way];
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
	{#each found.volumes as volume (volume.id)}
		<section
			class="volume"
			class:refuses={dragged && refusalOf(dragged, volume.id)}
			aria-label="{volume.mount} ({volume.id})"
			ondragover={over}
			ondrop={() => drop(volume.id)}
			role="group"
		>
			<p class="value font-semibold">{volume.mount}</p>
			<p class="quiet">
				{[
					volume.kind,
					volume.system ? 'the system’s' : '',
					volume.free === null ? '' : `${storage(volume.free)} free`
				]
					.filter(Boolean)
					.join(', ')}
			</p>
			{#each found.stores.filter((store) => volumeOf(store) === volume.id) as store (store.name)}
				{@render card(store)}
			{/each}
			<p class="quiet text-sienna">{dragged ? refusalOf(dragged, volume.id) : ''}</p>
		</section>
	{/each}
</div>

{#snippet card(store: Schemas['StorePlaceOut'])}
	<button
		class="card"
		class:moved={volumeOf(store) !== store.now}
		draggable="true"
		data-store={store.name}
		aria-label="{purposeWords(store.name)}, {storage(store.size)}: left and right move it"
		ondragstart={() => (dragged = store.name)}
		ondragend={() => (dragged = '')}
		onkeydown={(event) => step(event, store)}
	>
		{purposeWords(store.name)} <span class="value">{storage(store.size)}</span>
	</button>
{/snippet}

<style>
	.board {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(12rem, 1fr));
		gap: 0.8rem;
		max-width: 70rem;
	}
	.volume {
		border: 1px solid var(--rule);
		border-top-width: 4px;
		background: var(--sheet);
		padding: 0.5rem 0.7rem;
		min-height: 9rem;
	}
	.volume.refuses {
		border-color: var(--sienna);
	}
	.card {
		display: flex;
		width: 100%;
		justify-content: space-between;
		gap: 0.6rem;
		margin-top: 0.4rem;
		padding: 0.35rem 0.5rem;
		border: 1px solid var(--hair);
		border-left: 4px solid var(--muted);
		background: var(--paper);
		text-align: left;
		cursor: grab;
	}
	.card.moved {
		border-left-color: var(--kelp);
	}
</style>
