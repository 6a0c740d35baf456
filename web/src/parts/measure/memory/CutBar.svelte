<!-- The machine's memory to scale, cut into shares; what does not fit is drawn beyond its end. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { memoryTicks } from '../../../model/measure/rates';
	import { memory } from '../../../model/words/sizes';

	type Props = { cut: Schemas['SeatCutOut'] };
	let { cut }: Props = $props();

	const NARROW = 0.09; // of the width: a share that is narrower has no room for its name

	const whole = $derived(cut.total + cut.cut.over);
	const shares = $derived(
		(
			[
				['Reserve', cut.held_back, 'reserve'],
				['Application', cut.foreground, 'application'],
				[`${cut.cut.workers} workers`, cut.cut.workers * cut.per_worker, 'workers'],
				['Preview pool', cut.cut.pool, 'pool'],
				['Free', cut.cut.left, 'free']
			] as const
		).filter(([, size]) => size > 0)
	);
	const spoken = $derived(shares.map(([name, size]) => `${name} ${memory(size)}`).join(', '));
	const percent = (size: number): string => `${(100 * size) / whole}%`;
</script>

<div class="bar" role="img" aria-label="{memory(cut.total)} of memory: {spoken}">
	{#each shares as [name, size, tint] (name)}
		<span class="share {tint}" style:width={percent(size)} title="{name}: {memory(size)}">
			{#if size / whole > NARROW}
				<span class="label">{name} <span class="value">{memory(size)}</span></span>
			{/if}
		</span>
	{/each}
	{#if cut.cut.over}<span class="end" style:left={percent(cut.total)}></span>{/if}
</div>
<div class="ruler quiet" aria-hidden="true">
	{#each memoryTicks(cut.total) as size (size)}
		<span style:left={percent(size)}>{memory(size)}</span>
	{/each}
	{#if cut.pool_here}
		<i
			class="now"
			style:left={percent(cut.held_back + cut.foreground + cut.cut.workers * cut.per_worker + cut.pool_here)}
			title="end of the pool at its current value"
		></i>
	{/if}
</div>
<p class="quiet text-sm">
	The whole width is the memory of {cut.seat}, {memory(cut.total)}.
	{cut.pool_here
		? `The triangle marks where the pool ends at its current value, ${memory(cut.pool_here)}.`
		: ''}
	{cut.cut.over ? `${memory(cut.cut.over)} lies beyond the end and does not fit.` : ''}
</p>

<style>
	.bar {
		position: relative;
		display: flex;
		height: 5rem;
		border: 1px solid var(--rule);
		background: var(--sheet);
	}
	.share {
		height: 100%;
		border-right: 2px solid var(--paper);
		overflow: hidden;
	}
	.label {
		display: block;
		background: var(--sheet);
		border-bottom: 1px solid var(--hair);
		padding: 0.1rem 0.5rem;
		white-space: nowrap;
		font-size: 0.9rem;
	}
	.reserve {
		background: var(--wash);
	}
	.application {
		background: var(--rule);
	}
	.workers {
		background: repeating-linear-gradient(135deg, var(--kelp) 0 3px, var(--sheet) 3px 6px);
	}
	.pool {
		background: var(--kelp);
	}
	.free {
		background: var(--sheet);
		border-right: 0;
	}
	.end {
		position: absolute;
		inset-block: -6px;
		border-left: 3px solid var(--oxblood);
	}
	.ruler {
		position: relative;
		height: 1.6rem;
		font-size: 0.8rem;
	}
	.ruler span {
		position: absolute;
		border-left: 1px solid var(--rule);
		padding: 0.25rem 0 0 0.25rem;
	}
	.now {
		position: absolute;
		top: -2px;
		margin-left: -6px;
		border: 6px solid transparent;
		border-top: 0;
		border-bottom: 9px solid var(--sienna);
	}
</style>
