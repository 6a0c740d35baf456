<!-- A timeline on one seat: height is the load of the device that has most to do, the line is all that it can. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { lengthOf, outline, peaks, stretchWords } from '../../../model/measure/timeline';

	type Props = { on: Schemas['SeatTimelineOut']; most: number };
	let { on, most }: Props = $props();

	const WIDE = 1000;
	const HIGH = 84;
	const FAR = 0.04; // of the width: names nearer to one another would are on each other
	let place = $state(0);

	const full = $derived(HIGH - HIGH / most);
	const whole = $derived(on.edges.at(-1) ?? 1);
	const count = $derived(on.loads.length);
	/** Where the limiting device is named: at the beginning of each stretch above the line, not too close. */
	const names = $derived.by(() => {
		const shown: { at: number; device: string }[] = [];
		peaks(on).forEach(({ load, device }, n) => {
			const at = (on.edges[n] ?? 0) / whole;
			const last = shown.at(-1);
			if (load > 1 && (!last || at - last.at > FAR)) shown.push({ at, device });
		});
		return shown;
	});
	const marked = $derived({
		left: `${(100 * (on.edges[place] ?? 0)) / whole}%`,
		width: `${(100 * ((on.edges[place + 1] ?? 0) - (on.edges[place] ?? 0))) / whole}%`
	});
</script>

<div class="profile" data-profile={on.seat}>
	<div class="names" aria-hidden="true">
		{#each names as { at, device } (at)}<span style:left="{100 * at}%">{device}</span>{/each}
	</div>
	<div class="picture">
		<svg viewBox="0 0 {WIDE} {HIGH}" preserveAspectRatio="none" aria-hidden="true">
			<clipPath id="above-{on.seat}"><rect x="0" y="0" width={WIDE} height={full} /></clipPath>
			<path class="load" d={outline(on, WIDE, HIGH, most)} />
			<path class="above" d={outline(on, WIDE, HIGH, most)} clip-path="url(#above-{on.seat})" />
			<line x1="0" x2={WIDE} y1={full} y2={full} />
		</svg>
		<span class="here" style:left={marked.left} style:width={marked.width}></span>
	</div>
	<label class="slider">
		<span class="quiet">{lengthOf(on.edges[place] ?? 0)}</span>
		<input
			type="range"
			min="0"
			max={Math.max(0, count - 1)}
			bind:value={place}
			aria-label="Stretch of the timeline on {on.seat}"
			aria-valuetext={stretchWords(on, place)}
		/>
		<span class="quiet">{lengthOf(whole)}</span>
	</label>
	<p class="words">{stretchWords(on, place)}</p>
</div>

<style>
	.picture {
		position: relative;
		height: 84px;
		border-bottom: 1px solid var(--rule);
	}
	.names {
		position: relative;
		height: 1.15rem;
		font-size: 0.87rem;
		font-family: var(--font-mono);
		color: var(--oxblood);
	}
	.names span {
		position: absolute;
	}
	svg {
		width: 100%;
		height: 100%;
	}
	.load {
		fill: color-mix(in oklch, var(--muted), var(--paper) 45%);
	}
	.above {
		fill: var(--oxblood);
	}
	line {
		stroke: var(--ink);
		stroke-width: 1;
		vector-effect: non-scaling-stroke;
	}
	.here {
		position: absolute;
		inset-block: 0 -4px;
		border-bottom: 3px solid var(--kelp);
		min-width: 3px;
	}
	.slider {
		display: grid;
		grid-template-columns: 4rem minmax(0, 1fr) 4rem;
		align-items: center;
		gap: 0.6rem;
		margin-top: 0.35rem;
	}
	.slider span:last-child {
		text-align: right;
	}
	input {
		height: 24px;
	}
	.words {
		font-size: 0.93rem;
	}
</style>
