<!-- The whole memory as a bar of shares. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { memory } from '../../../model/words/sizes';

	type Props = { cut: Schemas['SeatCutOut'] };
	let { cut }: Props = $props();

	const whole = $derived(cut.total + cut.cut.over);
	const shares = $derived([
		['held back', cut.held_back, 'var(--muted)'],
		['in front', cut.foreground, 'var(--plum)'],
		['workers', cut.cut.workers * cut.per_worker, 'var(--sienna)'],
		['preview pool', cut.cut.pool, 'var(--kelp)'],
		['left', cut.cut.left, 'var(--wash)']
	] as const);
	const spoken = $derived(shares.map(([name, size]) => `${name} ${memory(size)}`).join(', '));
	const percent = (size: number): string => `${(100 * size) / whole}%`;
</script>

<div class="bar" role="img" aria-label="{memory(cut.total)} of memory: {spoken}">
	{#each shares as [name, size, colour] (name)}
		{#if size}
			<span class="share" style:width={percent(size)} style:background={colour} title="{name}: {memory(size)}"
			></span>
		{/if}
	{/each}
	{#if cut.cut.over}<span class="end" style:left={percent(cut.total)}></span>{/if}
</div>

<style>
	.bar {
		position: relative;
		display: flex;
		height: 2.6rem;
		border: 1px solid var(--rule);
		background: var(--sheet);
	}
	.share {
		height: 100%;
		border-right: 2px solid var(--paper);
	}
	.end {
		position: absolute;
		inset-block: -6px;
		border-left: 3px solid var(--oxblood);
	}
</style>
