<!-- Every run as a dot on the row of its condition; within a row the first is on top, so that drift shows as a slant. -->
<script lang="ts">
	import { rowsOf, scaleOf, ticksOf, shareOf, type Dot, type Run } from '../../model/measure/dots';
	import { AXIS, figureOf, type Job } from '../../model/measure/words';

	import RunSlider from './RunSlider.svelte';

	type Props = {
		names: string[];
		runs: Run[];
		means: Record<string, number>;
		job: Job;
		chosen: number;
		onchoose: (run: number) => void;
	};
	let { names, runs, means, job, chosen, onchoose }: Props = $props();

	/** So many rows are drawn low. */
	const MANY = 8;
	const made = $derived(runs.filter((run) => run.figure !== null));
	const scale = $derived(scaleOf(made.map((run) => run.figure as number)));
	const rows = $derived(rowsOf(names, runs, scale, means));
	const several = $derived(new Set(runs.map((run) => run.seat)).size > 1);
	const spoken = (run: Run): string =>
		`${run.condition}${several ? ` on ${run.seat}` : ''}, block ${run.block}: ${figureOf(job, run.figure as number)}${run.harmful ? ', memory was swapped in from disk' : ''}`;

	/** The run whose dot is nearest to where somebody pressed; the same once more lets go of it. */
	function point(event: MouseEvent & { currentTarget: HTMLElement }, dots: Dot[]): void {
		const box = event.currentTarget.getBoundingClientRect();
		const far = ({ x, y }: Dot): number =>
			Math.hypot(
				event.clientX - box.left - x * box.width,
				event.clientY - box.top - (0.12 + 0.76 * y) * box.height
			);
		const nearest = [...dots].sort((a, b) => far(a) - far(b))[0];
		if (nearest) onchoose(nearest.run.id === chosen ? 0 : nearest.run.id);
	}
	const place = $derived(made.findIndex((run) => run.id === chosen) + 1);
</script>

<figure class="plot" class:many={names.length > MANY} aria-label="Runs">
	{#each rows as row (row.name)}
		<span class="name">{row.name}</span>
		<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions (the slider below does the
		     same by keys) -->
		<div class="row" onclick={(event) => point(event, row.dots)}>
			{#each ticksOf(scale) as tick (tick)}
				<span class="tick" style:left="{100 * shareOf(tick, scale)}%"></span>
			{/each}
			{#if row.mean !== null}
				<span
					class="mean"
					style:left="{100 * row.mean}%"
					title="geometric mean: {figureOf(job, means[row.name] ?? 0)}"
				></span>
			{/if}
			{#each row.dots as dot (dot.run.id)}
				<span
					class="dot"
					class:harmful={dot.run.harmful}
					class:chosen={dot.run.id === chosen}
					style:left="{100 * dot.x}%"
					style:top="{12 + 76 * dot.y}%"
					title={spoken(dot.run)}
				></span>
			{/each}
		</div>
		<span class="value mean-of">{means[row.name] ? figureOf(job, means[row.name] as number) : ''}</span>
	{/each}
	<div class="axis quiet" aria-hidden="true">
		{#each ticksOf(scale) as tick (tick)}
			<span style:left="{100 * shareOf(tick, scale)}%">{tick}</span>
		{/each}
	</div>
	<div class="below">
		<RunSlider words={made.map(spoken)} {place} onslide={(to) => onchoose(made[to - 1]?.id ?? 0)} />
	</div>
	<figcaption class="below quiet">{AXIS[job]}; the first run is at the top of each row</figcaption>
</figure>

<style>
	.plot {
		display: grid;
		grid-template-columns: minmax(6rem, 15rem) minmax(0, 1fr) 5.5rem;
		gap: 0 0.9rem;
		align-items: center;
	}
	.name {
		text-align: right;
		overflow-wrap: anywhere;
	}
	.row {
		position: relative;
		height: 4.6rem;
		border-top: 1px solid var(--hair);
	}
	.many .row {
		height: 1.5rem;
	}
	.tick {
		position: absolute;
		inset-block: 0;
		border-left: 1px solid var(--hair);
	}
	.mean {
		position: absolute;
		inset-block: 4px;
		width: 3px;
		margin-left: -1.5px;
		background: var(--kelp);
	}
	.mean-of {
		font-size: 0.93rem;
	}
	.dot {
		position: absolute;
		width: 9px;
		height: 9px;
		margin: -4.5px;
		border-radius: 50%;
		background: var(--ink);
		opacity: 0.72;
	}
	.row:hover .dot,
	.chosen {
		opacity: 1;
	}
	.chosen {
		outline: 2px solid var(--kelp);
		outline-offset: 1px;
	}
	.harmful {
		background: var(--sienna);
		border-radius: 0;
	}
	.axis,
	.below {
		grid-column: 2;
	}
	.axis {
		position: relative;
		height: 1.3rem;
		border-top: 1px solid var(--rule);
		font-size: 0.8rem;
	}
	.axis span {
		position: absolute;
		transform: translateX(-50%);
	}
	figcaption {
		font-size: 0.85rem;
	}
	@media (max-width: 640px) {
		.plot {
			grid-template-columns: minmax(0, 1fr) 4.5rem;
		}
		.name {
			grid-column: 1 / -1;
			text-align: left;
			margin-top: 0.4rem;
		}
		.axis,
		.below {
			grid-column: 1;
		}
	}
</style>
