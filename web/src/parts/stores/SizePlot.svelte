<!-- How much of a volume was used day by day, up to its capacity; and from today on the days between which it fills. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { cornersOf } from '../../model/stores/bars';
	import { dayOfMonth } from '../../model/words/moment';
	import { storage } from '../../model/words/sizes';

	type Props = { volume: Schemas['VolumeOut'] };
	let { volume }: Props = $props();

	const WIDE = 640;
	const HIGH = 150;
	const DAY = 86_400_000;
	const LEAST = 14; // days that are shown at least
	const AHEAD = 21; // and of those to come at most

	const whole = $derived(volume.series.find((series) => series.store === ''));
	const sizes = $derived(whole?.sizes ?? []);
	const begin = $derived(Date.parse(whole?.since ?? new Date().toISOString()));
	const last = $derived(Math.max(0, sizes.length - 1));
	const until = (iso: string | null): number | null => (iso ? (Date.parse(iso) - begin) / DAY : null);
	const first = $derived(until(volume.first));
	const final = $derived(until(volume.last));
	const ahead = $derived(Math.min(last + AHEAD, Math.max(last + 1, final ?? last + AHEAD)));
	const days = $derived(Math.max(LEAST, first === null ? last : ahead));
	const x = (day: number): number => (WIDE * day) / days;
	const y = (bytes: number): number => HIGH - (HIGH * bytes) / Math.max(1, volume.capacity);
	const path = $derived(
		cornersOf(sizes)
			.map(([day, bytes], place) => `${place ? 'L' : 'M'}${x(day)} ${y(bytes)}`)
			.join('')
	);
	const now = $derived(sizes.at(-1) ?? 0);
	const full = $derived(until(volume.full_on));
	const wedge = $derived(
		first === null
			? ''
			: `M${x(last)} ${y(now)}L${x(first)} 0L${x(final ?? days * 4)} ${final === null ? y(now) : 0}Z`
	);
	const dateOf = (day: number): string => dayOfMonth(new Date(begin + day * DAY));
	const spoken = $derived(
		`Used of ${volume.mount}: ${storage(sizes[0] ?? 0)} on ${dateOf(0)}, ${storage(now)} on ${dateOf(last)}, of ${storage(volume.capacity)}. ${volume.words}`
	);
</script>

<figure>
	<svg viewBox="0 0 {WIDE} {HIGH}" role="img" aria-label={spoken} preserveAspectRatio="none">
		<line class="full" x1="0" x2={WIDE} y1="1" y2="1" />
		{#if wedge}<path class="wedge" d={wedge} />{/if}
		{#if full !== null}<line class="likely" x1={x(last)} y1={y(now)} x2={x(full)} y2="0" />{/if}
		<path class="used" d={path} />
		{#if wedge}<line class="today" x1={x(last)} x2={x(last)} y1="0" y2={HIGH} />{/if}
	</svg>
	<div class="days quiet" aria-hidden="true">
		<span style:left="0">{dateOf(0)}</span>
		{#if last < days}<span style:left="{(100 * last) / days}%">{dateOf(last)}</span>{/if}
	</div>
	<figcaption class="quiet">
		Used of {storage(volume.capacity)}{wedge ? '; the wedge shows the days on which it may be full' : ''}.
	</figcaption>
</figure>

<style>
	svg {
		width: 100%;
		height: 150px;
		overflow: hidden;
		border-bottom: 1px solid var(--rule);
	}
	.used {
		fill: none;
		stroke: var(--kelp);
		stroke-width: 2;
		vector-effect: non-scaling-stroke;
	}
	.wedge {
		fill: var(--whisper);
		opacity: 0.45;
	}
	.days {
		position: relative;
		height: 1.4em;
	}
	.days span {
		position: absolute;
	}
	.likely {
		stroke: var(--kelp);
		stroke-dasharray: 5 4;
		vector-effect: non-scaling-stroke;
	}
	.full,
	.today {
		stroke: var(--rule);
		vector-effect: non-scaling-stroke;
	}
	.today {
		stroke-dasharray: 3 3;
	}
</style>
