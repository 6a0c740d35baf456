<!-- The names beside the grid: of each line, with how many of it are off norm; a press chooses those. -->
<script lang="ts">
	import type { Line } from '../../model/house/grid';
	import { CELL, HEAD } from './gridPaint';

	type Props = { lines: Line[]; top: number; onchoose: (line: Line) => void };
	let { lines, top, onchoose }: Props = $props();
</script>

<div class="side" style:--head="{HEAD}px" style:--line="{CELL.height}px">
	<div style:transform="translateY({-top}px)">
		{#each lines as line (line.key)}
			{#if line.kind === 'family'}
				<p class="label family">{line.title}</p>
			{:else}
				<button
					class="label"
					tabindex="-1"
					title="{line.title}: select cells off norm"
					onclick={() => onchoose(line)}
					><span class="truncate">{line.title}</span><span class="count">{line.told}</span></button
				>
			{/if}
		{/each}
	</div>
</div>

<style>
	.side {
		overflow: hidden;
		position: relative;
		padding-top: var(--head);
	}
	.side::before {
		content: '';
		position: absolute;
		inset: 0 0 auto;
		height: var(--head);
		background: var(--paper);
		z-index: 1;
	}
	.label {
		display: flex;
		gap: 0.6rem;
		align-items: center;
		width: 100%;
		height: var(--line);
		line-height: calc(var(--line) - 1px);
		border-top: 1px solid var(--hair);
		text-align: left;
		font-size: 0.9rem;
		padding-right: 0.7rem;
		white-space: nowrap;
	}
	.label:hover:not(.family) {
		background: var(--wash);
	}
	.count {
		margin-left: auto;
		font-family: var(--font-mono);
		font-size: 0.85rem;
		color: var(--muted);
	}
	.family {
		border-color: transparent;
		font-family: var(--font-head);
		font-weight: 600;
	}
</style>
