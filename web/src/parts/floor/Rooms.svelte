<!-- Rooms with their seats; arrows walk between seats, space selects, Enter opens. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { onDestroy } from 'svelte';
	import { ask } from '../../api/queries';
	import type { Selection } from '../../state/selection.svelte';
	import { Frames, LevelsInSight, Paced, Sight } from '../../state/sight.svelte';
	import { BAND, nearest, partsOf, type Part, type Room, WING } from '../../model/house/rooms';
	import SeatCard from './SeatCard.svelte';
	import SightPart from './SightPart.svelte';

	type Props = { rooms: Room[]; selection: Selection<string> };
	let { rooms, selection }: Props = $props();

	const WIDEST = 8; // seats side by side
	const FEW = 200; // a house of so few seats is drawn whole
	const MOST = 400; // seats whose levels are asked for at once

	const frames = new Frames();
	const sight = new Sight(frames);
	const levels = new LevelsInSight(frames);
	const near = new Set<Part>(); // eslint-disable-line svelte/prefer-svelte-reactivity -- it is told at a pace
	let plan: HTMLElement;

	const winged = $derived(rooms.map((room) => ({ ...room, wings: partsOf(room.name, room.seats, WING) })));
	const few = $derived(rooms.reduce((sum, room) => sum + room.seats.length, 0) <= FEW);
	const wanted = new Paced<string[]>([]);
	const asked = createQuery(() => ({ ...ask.levels(wanted.value), placeholderData: keepPreviousData }));

	$effect(() => levels.take(asked.data?.items ?? []));
	onDestroy(() => {
		sight.stop();
		frames.stop();
		wanted.stop();
	});

	/** Ask for the levels of a band while it is in sight. */
	function inSight(band: Part): () => void {
		near.add(band);
		tell();
		return () => {
			near.delete(band);
			tell();
		};
	}

	function tell(): void {
		wanted.tell([...near].flatMap((band) => band.seats.map((seat) => seat.name)).slice(0, MOST));
	}

	function press(event: KeyboardEvent): void {
		const link = (event.target as Element).closest<HTMLElement>('[data-seat-link]');
		if (!link) return;
		if (event.key === ' ') selection.toggle(link.dataset['seatLink'] ?? '');
		else if (!event.key.startsWith('Arrow') || !walk(event.key, link)) return;
		event.preventDefault();
	}

	function walk(key: string, from: HTMLElement): boolean {
		const links = [...plan.querySelectorAll<HTMLElement>('[data-seat-link]')];
		const boxes = links.map((link) => (link.closest('li') ?? link).getBoundingClientRect());
		const next = nearest(key, (from.closest('li') ?? from).getBoundingClientRect(), boxes);
		links[next]?.focus();
		return next >= 0;
	}
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions (the links inside have the focus; keys bubble up) -->
<div class="plan" bind:this={plan} onkeydown={press} role="group" aria-label="The floor">
	{#each winged as room (room.name)}
		<section
			class="room"
			style:--span={Math.min(WIDEST, Math.max(1, room.seats.length))}
			aria-label={room.name}
		>
			<header class="mb-1 flex flex-wrap items-baseline gap-x-3">
				<h2 class="text-base whitespace-nowrap">{room.name}</h2>
				{#if room.seats.length > 1}<span class="quiet ml-auto">{room.role}</span>{/if}
			</header>
			{#each room.wings as wing (wing.key)}{@render wingOf(wing)}{/each}
		</section>
	{/each}
</div>

{#snippet wingOf(wing: Part)}
	<SightPart tag="div" count={wing.seats.length} whole={few} {sight}>
		{#each partsOf(wing.key, wing.seats, BAND) as band (band.key)}
			<SightPart tag="ul" count={band.seats.length} whole={few} {sight} onsight={() => inSight(band)}>
				{#each band.seats as seat (seat.name)}
					<SeatCard
						{seat}
						{levels}
						selected={selection.has(seat.name)}
						ontoggle={() => selection.toggle(seat.name)}
					/>
				{/each}
			</SightPart>
		{/each}
	</SightPart>
{/snippet}

<style>
	.plan {
		display: grid;
		grid-template-columns: repeat(8, minmax(0, 1fr));
		grid-auto-flow: dense;
		gap: 0.7rem;
		align-items: start;
		--card: 8.1rem; /* the height of a seat */
	}
	.room {
		grid-column: span var(--span);
		border: 3px double var(--rule);
		padding: 0.35rem 0.6rem 0.6rem;
		--columns: var(--span);
	}
	@media (max-width: 1180px) {
		.plan {
			grid-template-columns: repeat(4, minmax(0, 1fr));
		}
		.room {
			grid-column: span min(4, var(--span));
			--columns: min(4, var(--span));
		}
	}
	@media (max-width: 760px) {
		.plan {
			grid-template-columns: 1fr 1fr;
		}
		.room {
			grid-column: 1 / -1;
			--columns: 2;
		}
	}
</style>
