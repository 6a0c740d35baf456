<!-- The use of a volume over the last year as a small line under its capacity, and a wedge where it may be full. -->
<script lang="ts">
	import { yearLine, type Volume } from '../../model/stores/bars';
	import { storage } from '../../model/words/sizes';

	type Props = { volume: Volume; weeks: number };
	let { volume, weeks: span }: Props = $props();

	const WIDE = 310;
	const HIGH = 36;

	const drawn = $derived(yearLine(volume, span, WIDE, HIGH));
	const weeks = $derived(volume.used_weekly.length - 1);
	const spoken = $derived(
		`Used ${weeks} weeks ago: ${storage(volume.used_weekly[0] ?? 0)}, now: ${storage(volume.capacity - volume.free)}`
	);
</script>

<svg viewBox="0 -1 {WIDE} {HIGH + 2}" preserveAspectRatio="none" role="img" aria-label={spoken}>
	<path class="area" d={drawn.area} />
	<path class="wedge" d={drawn.wedge} />
	<line class="capacity" x1="0" x2={WIDE} y1="0" y2="0" />
	<path class="line" d={drawn.line} />
	<line class="today" x1={drawn.today} x2={drawn.today} y1={HIGH - 4} y2={HIGH} />
</svg>

<style>
	svg {
		width: 100%;
		height: 2.3rem;
		overflow: hidden;
	}
	.area {
		fill: var(--wash);
	}
	.line {
		fill: none;
		stroke: var(--kelp);
		stroke-width: 1.6;
		vector-effect: non-scaling-stroke;
	}
	.wedge {
		fill: var(--sienna);
		opacity: 0.45;
	}
	.capacity {
		stroke: var(--oxblood);
		stroke-width: 1.4;
		stroke-dasharray: 2 4;
		vector-effect: non-scaling-stroke;
	}
	.today {
		stroke: var(--muted);
		vector-effect: non-scaling-stroke;
	}
</style>
