<script lang="ts">
	import type { Schemas } from '../../api/client';
	import type { LevelsInSight } from '../../state/sight.svelte';
	import Level from '../level/Level.svelte';
	import type { Place } from '../../model/house/rooms';

	type Props = {
		seat: Place;
		levels: LevelsInSight;
		selected: boolean;
		ontoggle: () => void;
	};
	let { seat, levels: all, selected, ontoggle }: Props = $props();

	const LETTERS: Record<string, string> = { engine: 'E', memory: 'M', stores: 'S', power: 'P', driver: 'D' };
	let levels = $state.raw<Schemas['SeatOut']['levels']>([]);
	const address = $derived(`/seats/${encodeURIComponent(seat.name)}`);

	$effect(() => all.watch(seat.name, (told) => (levels = told)));
</script>

<li class="seat" class:selected class:away={seat.presence !== 'here'} data-seat={seat.name}>
	<div class="flex items-baseline gap-1">
		<a
			href={address}
			class="min-w-0 truncate font-semibold text-ink no-underline"
			title={seat.name}
			data-seat-link={seat.name}>{seat.name}</a
		>
		<input
			type="checkbox"
			class="ml-auto shrink-0 self-center"
			checked={selected}
			onchange={ontoggle}
			tabindex="-1"
			aria-label="Select {seat.name}"
		/>
	</div>
	<p class="show">
		{seat.presence === 'here'
			? seat.production
			: seat.presence === 'silent'
				? 'not responding'
				: 'no survey yet'}
	</p>
	<ul aria-label="Levels of {seat.name}">
		{#each levels as level (level.family)}
			<li class="line" data-letter={LETTERS[level.family] ?? ''}>
				<Level
					status={level.status}
					words={level.words}
					distance={level.distance}
					severity={level.severity}
					size="small"
				/>
			</li>
		{/each}
	</ul>
</li>

<style>
	.seat {
		background: var(--sheet);
		border: 1px solid var(--hair);
		border-radius: 3px;
		padding: 0.25rem 0.5rem 0.35rem;
		height: var(--card);
	}
	.seat:focus-within {
		border-color: var(--kelp);
	}
	.selected {
		border-color: var(--kelp);
		box-shadow: inset 0 0 0 1px var(--kelp);
	}
	.away {
		background: repeating-linear-gradient(135deg, var(--sheet) 0 5px, var(--wash) 5px 7px);
	}
	.show,
	.line::before {
		font-size: 0.8rem;
		color: var(--muted);
	}
	.show {
		white-space: nowrap;
		overflow: hidden;
		text-overflow: ellipsis;
	}
	.line {
		display: flex;
		align-items: center;
		gap: 0.375rem;
	}
	.line::before {
		content: attr(data-letter) / '';
		line-height: 1.15;
		font-family: var(--font-mono);
		width: 0.8rem;
	}
</style>
