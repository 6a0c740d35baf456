<!-- The memory as one bar, cut into who may take it; what goes beyond the machine hangs over the end. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { nameOf } from '../../model/words/names';
	import { memory } from '../../model/words/sizes';

	type Props = { budget: Schemas['BudgetOut'] };
	let { budget }: Props = $props();

	const whole = $derived(Math.max(budget.total, budget.total + budget.over));
	const left = $derived(budget.total - budget.shares.reduce((sum, share) => sum + share.size, 0));
	const name = (share: Schemas['ShareOut']): string =>
		share.app ? `${nameOf(share.app)}, ${share.name.toLowerCase()}` : share.name;
	const percent = (size: number): string => `${(100 * size) / whole}%`;
</script>

<div class="bar" aria-hidden="true">
	{#each budget.shares as share, index (name(share))}
		<span class="part p{index % 6}" style:width={percent(share.size)}></span>
	{/each}
	{#if left > 0}<span class="free" style:width={percent(left)}></span>{/if}
	{#if budget.over}<span class="end" style:left={percent(budget.total)}></span>{/if}
</div>
<ul class="quiet">
	{#each budget.shares as share, index (name(share))}
		<li><i class="part p{index % 6}"></i> {name(share)} <span class="value">{memory(share.size)}</span></li>
	{/each}
	{#if left > 0}<li><i class="free"></i> free <span class="value">{memory(left)}</span></li>{/if}
</ul>
{#if budget.over}
	<p class="over">{memory(budget.over)} more than the machine has: it will swap to disk</p>
{/if}

<style>
	.bar {
		position: relative;
		display: flex;
		height: 16px;
		border: 1px solid var(--rule);
		margin-block: 0.25rem;
	}
	.part {
		border-right: 1px solid var(--paper);
	}
	.p0 {
		background: var(--muted);
	}
	.p1 {
		background: repeating-linear-gradient(135deg, var(--muted) 0 2px, var(--wash) 2px 5px);
	}
	.p2 {
		background: var(--kelp);
	}
	.p3 {
		background: repeating-linear-gradient(90deg, var(--kelp) 0 3px, var(--wash) 3px 5px);
	}
	.p4 {
		background: radial-gradient(circle, var(--kelp) 1.2px, var(--wash) 1.4px) 0 0 / 5px 5px;
	}
	.p5 {
		background: repeating-linear-gradient(45deg, var(--kelp) 0 2px, var(--wash) 2px 6px);
	}
	.free {
		background: var(--sheet);
	}
	.end {
		position: absolute;
		inset-block: -5px;
		border-left: 2px solid var(--oxblood);
	}
	ul {
		font-size: 0.85rem;
	}
	i {
		display: inline-block;
		width: 10px;
		height: 10px;
		border: 1px solid var(--rule);
	}
	.over {
		color: var(--oxblood);
		font-size: 0.9rem;
		font-weight: 600;
	}
</style>
