<!-- What the machine did during a run: a strip for each column that its system tells. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { columnOf, inOrder } from '../../model/measure/words';
	import { memory, storage } from '../../model/words/sizes';

	type Props = { samples: Schemas['SamplesOut'] };
	let { samples }: Props = $props();

	const HIGH = 26;
	const WIDE = 240;

	type Values = (number | null)[];
	const top = (name: string, values: Values): number =>
		columnOf(name).share ? 1 : Math.max(1e-9, ...values.map((value) => value ?? 0));

	/** The outline of a column; where a figure is missing, a gap. */
	function pathOf(name: string, values: Values): string {
		const whole = top(name, values);
		const step = WIDE / Math.max(1, values.length);
		return values
			.map((value, place) =>
				value === null
					? ''
					: `M${place * step} ${HIGH}V${HIGH - (value / whole) * HIGH}H${(place + 1) * step}V${HIGH}Z`
			)
			.join('');
	}

	function lastOf(name: string, values: Values): string {
		const last = values.filter((value) => value !== null).at(-1) ?? 0;
		if (columnOf(name).share) return `${Math.round(100 * last)} %`;
		if (name.startsWith('disk')) return `${storage(last)}/s`;
		if (name.includes('memory')) return memory(last);
		return last.toFixed(0);
	}
	const seconds = $derived(
		Math.round(samples.every * Math.max(0, ...Object.values(samples.columns).map((column) => column.length)))
	);
</script>

<ul class="loads" aria-label="Machine load during this run">
	{#each inOrder(samples.columns) as [name, values] (name)}
		<li>
			<span>{columnOf(name).title}</span>
			<svg viewBox="0 0 {WIDE} {HIGH}" preserveAspectRatio="none" aria-hidden="true">
				<path d={pathOf(name, values)} />
				{#if columnOf(name).share && samples.rest?.[name] !== undefined}
					<line
						x1="0"
						x2={WIDE}
						y1={HIGH - (samples.rest[name] ?? 0) * HIGH}
						y2={HIGH - (samples.rest[name] ?? 0) * HIGH}
					/>
				{/if}
			</svg>
			<span class="value">{lastOf(name, values)}</span>
		</li>
	{/each}
</ul>
<p class="quiet">
	{seconds} seconds from left to right; percentages fill their strip at 100 %. Values that the system does not report
	are missing.
</p>

<style>
	.loads {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(21rem, 1fr));
		gap: 0.35rem 2rem;
	}
	li {
		display: grid;
		grid-template-columns: 8.5rem minmax(0, 1fr) 5.5rem;
		gap: 0.7rem;
		align-items: center;
		font-size: 0.93rem;
	}
	svg {
		height: 26px;
		width: 100%;
		border-bottom: 1px solid var(--rule);
	}
	path {
		fill: var(--muted);
	}
	line {
		stroke: var(--kelp);
		stroke-dasharray: 3 3;
		vector-effect: non-scaling-stroke;
	}
</style>
