<!-- The plot of a strip: a lane for each family, a mark for each change, and the moment that is shown. -->
<script lang="ts">
	import { exactly } from '../../model/words/moment';
	import { CAUSES, LANES, laneOf, midnights, momentAt, placeOf, type Placed } from '../../model/house/strip';
	import ChangeMark from './ChangeMark.svelte';

	type Props = { groups: Placed[]; now: number; days: number; at: string; onchoose: (at: string) => void };
	let { groups, now, days, at, onchoose }: Props = $props();

	const NEAR = 8; // pixels
	const LANE = 14; // pixels
	const OTHERS = 'others';
	const steps = $derived(days * 24);
	const share = $derived(at ? placeOf(at, now, days) : 1);
	const nights = $derived(midnights(now, days));

	const placeAt = (group: Placed): string =>
		`left:${100 * group.x}%;top:${laneOf(group.family) * LANE + LANE / 2}px`;

	/** A click on a mark means its moment; elsewhere, the moment of the place. */
	function point(event: MouseEvent & { currentTarget: HTMLElement }): void {
		const box = event.currentTarget.getBoundingClientRect();
		const share = (event.clientX - box.left) / box.width;
		const near = groups.filter((group) => Math.abs(group.x - share) * box.width < NEAR);
		const lane = Math.floor((event.clientY - box.top) / LANE);
		const meant = near.find((group) => laneOf(group.family) === lane) ?? near[0];
		onchoose(meant ? meant.at : momentAt(share, now, days).toISOString());
	}

	function slide(event: Event & { currentTarget: HTMLInputElement }): void {
		const step = event.currentTarget.valueAsNumber;
		onchoose(step >= steps ? '' : momentAt(step / steps, now, days).toISOString());
	}
</script>

<div class="plot">
	<div class="names quiet">
		{#each LANES as lane (lane)}<span>{lane}</span>{/each}
		<span title="playback, delivery, project, safety and audio">{OTHERS}</span>
	</div>
	<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions (the slider and the list do
	     the same by keys) -->
	<div class="lanes" onclick={point}>
		{#each nights as night (night.x)}
			<span class="day" class:week={night.name} style:left="{100 * night.x}%"></span>
		{/each}
		{#each groups as group (group.at + group.family + group.cause)}
			<ChangeMark
				cause={group.cause}
				place={placeAt(group)}
				title="{exactly(group.at)}, {CAUSES[group.cause] ?? group.cause}: {group.words}"
			/>
		{/each}
		<span class="cursor" style:left="{100 * share}%" aria-hidden="true"></span>
	</div>
	<span></span>
	<div class="weeks quiet">
		{#each nights.filter((night) => night.name) as night (night.x)}
			<span style:left="{100 * night.x}%">{night.name}</span>
		{/each}
	</div>
	<label class="quiet" for="as-of">as of</label>
	<input
		id="as-of"
		type="range"
		min="0"
		max={steps}
		step="1"
		value={Math.round(share * steps)}
		aria-valuetext={at ? exactly(at) : 'now'}
		onchange={slide}
	/>
</div>

<style>
	.plot {
		display: grid;
		grid-template-columns: 4.4rem 1fr;
		margin-top: 0.4rem;
	}
	.names {
		display: grid;
		grid-auto-rows: 14px;
		font-size: 0.78rem;
		line-height: 14px;
	}
	.lanes {
		position: relative;
		height: 84px;
		background: repeating-linear-gradient(to bottom, transparent 0 13px, var(--hair) 13px 14px);
		border-top: 1px solid var(--hair);
	}
	.day {
		position: absolute;
		inset-block: 0;
		border-left: 1px dotted var(--hair);
	}
	.week {
		border-left: 1px solid var(--rule);
	}
	.weeks {
		position: relative;
		height: 1.2rem;
		font-size: 0.8rem;
	}
	.weeks span {
		position: absolute;
		transform: translateX(-50%);
		white-space: nowrap;
	}
	.cursor {
		position: absolute;
		inset-block: -3px;
		width: 2px;
		margin-left: -1px;
		background: var(--kelp);
		pointer-events: none;
	}
	input[type='range'] {
		accent-color: var(--kelp);
		width: 100%;
		margin: 0;
	}
</style>
