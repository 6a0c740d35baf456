<!-- Thirty days of a seat: a lane for each family, a mark for each change, and the moment that is shown. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { nameOf } from '../../model/words/names';
	import { exactly } from '../../model/words/moment';
	import { midnights, momentAt, placed, placeOf } from '../../model/house/strip';

	type Props = {
		changes: Schemas['MovedOut'][];
		at: string;
		onchoose: (at: string) => void;
	};
	let { changes, at, onchoose }: Props = $props();

	const DAYS = 30;
	const NEAR = 8; // pixels
	const LANE = 14; // pixels
	const STEPS = DAYS * 24;
	const LANES = ['engine', 'memory', 'stores', 'power', 'driver'];
	const OTHERS = 'the rest';
	const lanes = [...LANES, OTHERS];
	const now = Date.now();

	const laneOf = (family: string): number => {
		const lane = LANES.indexOf(family);
		return lane < 0 ? LANES.length : lane;
	};
	const groups = $derived(placed(changes, now, DAYS));
	const share = $derived(at ? placeOf(at, now, DAYS) : 1);
	const causes: Record<string, string> = {
		ours: 'ours',
		'at the seat': 'at the seat',
		version: 'with a version',
		facts: 'the machine',
		unread: 'no longer read'
	};

	function words(mark: Schemas['MovedOut']): string {
		const name = mark.app ? `${mark.title} of ${nameOf(mark.app)}` : mark.title;
		return `${name}: ${mark.before ?? 'unread'} to ${mark.after ?? 'unread'}`;
	}

	function label(group: (typeof groups)[number]): string {
		const told = group.marks.map(words).join('; ');
		return `${exactly(group.at)}, ${causes[group.cause] ?? group.cause}: ${told}`;
	}

	/** A click on a mark means its moment; elsewhere, the moment of the place. */
	function point(event: MouseEvent & { currentTarget: HTMLElement }): void {
		const box = event.currentTarget.getBoundingClientRect();
		const share = (event.clientX - box.left) / box.width;
		const near = groups.filter((group) => Math.abs(group.x - share) * box.width < NEAR);
		const lane = Math.floor((event.clientY - box.top) / LANE);
		const meant = near.find((group) => laneOf(group.family) === lane) ?? near[0];
		onchoose(meant ? meant.at : momentAt(share, now, DAYS).toISOString());
	}

	function slide(event: Event & { currentTarget: HTMLInputElement }): void {
		const step = event.currentTarget.valueAsNumber;
		onchoose(step >= STEPS ? '' : momentAt(step / STEPS, now, DAYS).toISOString());
	}
</script>

<section aria-label="Thirty days" class="strip">
	<div class="flex flex-wrap items-baseline gap-x-4">
		<h2 class="text-base">Thirty days</h2>
		<p class="quiet" role="status">
			{at ? `shown as it was ${exactly(at)}` : `${changes.length || 'no'} changes; shown as it is now`}
		</p>
		{#if at}<button class="anchor text-sm" onclick={() => onchoose('')}>back to now</button>{/if}
		<p class="quiet legend">
			<span><i class="mark at-the-seat"></i> at the seat</span>
			<span><i class="mark ours"></i> ours</span>
			<span><i class="mark version"></i> with a version</span>
			<span><i class="mark facts"></i> the machine</span>
			<span><i class="mark unread"></i> no longer read</span>
		</p>
	</div>
	<div class="plot">
		<div class="names quiet">
			{#each lanes as lane (lane)}<span>{lane}</span>{/each}
		</div>
		<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions (the slider and the list do
		     the same by keys) -->
		<div class="lanes" onclick={point}>
			{#each midnights(now, DAYS) as day (day.x)}
				<span class="day" class:week={day.name} style:left="{100 * day.x}%"></span>
			{/each}
			{#each groups as group (group.at + group.family + group.cause)}
				<i
					class="mark {group.cause.replaceAll(' ', '-')}"
					style:left="{100 * group.x}%"
					style:top="{laneOf(group.family) * LANE + LANE / 2}px"
					title={label(group)}
				></i>
			{/each}
			<span class="cursor" style:left="{100 * share}%" aria-hidden="true"></span>
		</div>
		<span></span>
		<div class="weeks quiet">
			{#each midnights(now, DAYS).filter((day) => day.name) as day (day.x)}
				<span style:left="{100 * day.x}%">{day.name}</span>
			{/each}
		</div>
		<label class="quiet" for="as-of">as of</label>
		<input
			id="as-of"
			type="range"
			min="0"
			max={STEPS}
			step="1"
			value={Math.round(share * STEPS)}
			aria-valuetext={at ? exactly(at) : 'now'}
			onchange={slide}
		/>
	</div>
	{#if groups.length}
		<details class="mt-1 text-sm">
			<summary class="quiet">Every change, the newest first</summary>
			<ul>
				{#each [...groups].reverse() as group (group.at + group.family + group.cause)}
					<li>
						<button class="anchor py-1 text-left" onclick={() => onchoose(group.at)}>{label(group)}</button>
					</li>
				{/each}
			</ul>
		</details>
	{/if}
</section>

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
	.mark {
		position: absolute;
		width: 9px;
		height: 9px;
		padding: 0;
		border-radius: 0;
		transform: translate(-50%, -50%);
		background: var(--sienna);
	}
	.ours {
		background: var(--kelp);
		border-radius: 50%;
	}
	.version {
		background: none;
		border: 2px solid var(--muted);
		border-radius: 50%;
	}
	.facts {
		width: 3px;
		height: 13px;
		background: var(--ink);
	}
	.unread {
		background: none;
		height: 3px;
		width: 11px;
		border-block: 1px dashed var(--muted);
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
	.legend {
		display: flex;
		flex-wrap: wrap;
		gap: 0.2rem 1.2rem;
		margin-left: auto;
		font-size: 0.82rem;
	}
	.legend i {
		position: static;
		display: inline-block;
		transform: none;
		vertical-align: middle;
		margin-right: 0.2rem;
	}
</style>
