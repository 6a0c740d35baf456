<!-- The moves in an order that has room at each step, with what is free after each. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { purposeWords } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';

	type Props = { moves: Schemas['StoreMoveOut'][]; volumes: Schemas['PlacementVolumeOut'][] };
	let { moves, volumes }: Props = $props();

	const mountOf = (id: string | null): string =>
		volumes.find((volume) => volume.id === id)?.mount ?? id ?? '';
	const freeAfter = (move: Schemas['StoreMoveOut']): string =>
		[move.source, move.target]
			.filter((id) => id !== null && id in move.free)
			.map((id) => `${mountOf(id)} ${storage(move.free[id as string] ?? 0)}`)
			.join(', ');
</script>

<h2 class="mb-1 border-b border-hair pb-1 text-lg">Moves, in this order</h2>
<ol class="list-decimal pl-6">
	{#each moves as move, place (place)}
		<li class="border-t border-hair py-1.5">
			{purposeWords(move.store)}, {storage(move.size)}, from
			<span class="value">{mountOf(move.source)}</span>
			to <span class="value">{mountOf(move.target)}</span>{move.detour ? ' (temporary)' : ''}
			<span class="quiet block">free afterwards: {freeAfter(move)}</span>
		</li>
	{/each}
</ol>
