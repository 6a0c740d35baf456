<!-- The shares of a machine's memory that can be moved, and what rules allow of the preview pool. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { memory } from '../../../model/words/sizes';
	import type { MemoryPlan } from '../../../state/memoryPlan.svelte';

	type Props = { cut: Schemas['SeatCutOut']; plan: MemoryPlan };
	let { cut, plan }: Props = $props();

	const STEP = 2 ** 29;
</script>

<div class="sliders">
	<label for="held-back" class="of" style:--of="var(--wash)">Reserve</label>
	<input
		id="held-back"
		type="range"
		min="0"
		max={cut.total / 2}
		step={STEP}
		value={cut.held_back}
		aria-valuetext={memory(cut.held_back)}
		onchange={(event) => (plan.heldBack = event.currentTarget.valueAsNumber)}
	/>
	<span class="value">{memory(cut.held_back)}</span>
	<span class="quiet">for the system and other programs</span>
	<label for="in-front" class="of" style:--of="var(--rule)">Application</label>
	<input
		id="in-front"
		type="range"
		min="0"
		max={cut.total / 2}
		step={STEP}
		value={cut.foreground}
		aria-valuetext={memory(cut.foreground)}
		onchange={(event) => (plan.foreground = event.currentTarget.valueAsNumber)}
	/>
	<span class="value">{memory(cut.foreground)}</span>
	<span class="quiet">for the application itself</span>
	<label for="workers" class="of hatched">Workers</label>
	<input
		id="workers"
		type="range"
		min="0"
		max={Math.max(1, cut.cores - cut.reserved)}
		step="1"
		value={cut.cut.workers}
		aria-valuetext="{cut.cut.workers} workers"
		onchange={(event) => (plan.workers = event.currentTarget.valueAsNumber)}
	/>
	<span class="value">{cut.cut.workers} × {memory(cut.per_worker)}</span>
	<span class="quiet">{cut.cores} cores, {cut.reserved} reserved for others</span>
	<span class="of" style:--of="var(--kelp)">Preview pool</span>
	<span class="pool" aria-hidden="true">
		<span
			class="allowed"
			style:left="{(100 * cut.pool_least) / cut.total}%"
			style:right="{100 - (100 * cut.pool_most) / cut.total}%"
		></span>
		<span class="here" style:left="{(100 * cut.cut.pool) / cut.total}%"></span>
	</span>
	<span class="value">{memory(cut.cut.pool)}</span>
	<span class="quiet">house standard: {cut.pool_because}; current value: {memory(cut.pool_here)}</span>
</div>

<style>
	.sliders {
		display: grid;
		grid-template-columns: 7.5rem minmax(8rem, 1fr) 8.5rem;
		gap: 0.3rem 1rem;
		align-items: center;
	}
	.of {
		border-left: 10px solid var(--of);
		padding-left: 0.5rem;
	}
	.hatched {
		border-image: repeating-linear-gradient(135deg, var(--kelp) 0 3px, var(--sheet) 3px 6px) 10;
	}
	input {
		height: 24px;
	}
	.pool {
		position: relative;
		height: 1.2rem;
		background: var(--wash);
	}
	.allowed {
		position: absolute;
		inset-block: 0;
		background: var(--rule);
	}
	.here {
		position: absolute;
		inset-block: -3px;
		width: 4px;
		margin-left: -2px;
		background: var(--kelp);
	}
	.sliders .quiet {
		grid-column: 2 / -1;
		margin-bottom: 0.5rem;
	}
	@media (max-width: 640px) {
		.sliders {
			grid-template-columns: 6rem minmax(0, 1fr);
		}
		.sliders .quiet {
			grid-column: 1 / -1;
		}
	}
</style>
