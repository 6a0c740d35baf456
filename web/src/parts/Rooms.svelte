<!-- Rooms with their seats; arrows walk between seats, space selects, Enter opens. -->
<script lang="ts">
	import type { Schemas } from '../api/client';
	import type { Selection } from '../state/selection.svelte';
	import { nearest, roomsOf } from './rooms';
	import SeatCard from './SeatCard.svelte';

	type Props = { seats: Schemas['SeatOut'][]; selection: Selection<string> };
	let { seats, selection }: Props = $props();

	const WIDEST = 8; // seats side by side
	const rooms = $derived(roomsOf(seats));
	let plan: HTMLElement;

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
	{#each rooms as room (room.name)}
		<section
			class="room"
			style:--span={Math.min(WIDEST, Math.max(1, room.seats.length))}
			aria-label={room.name}
		>
			<header class="mb-1 flex flex-wrap items-baseline gap-x-3">
				<h2 class="text-base whitespace-nowrap">{room.name}</h2>
				{#if room.seats.length > 1}<span class="quiet ml-auto">{room.role}</span>{/if}
			</header>
			<ul class="seats">
				{#each room.seats as seat (seat.name)}
					<SeatCard {seat} selected={selection.has(seat.name)} ontoggle={() => selection.toggle(seat.name)} />
				{/each}
			</ul>
		</section>
	{/each}
</div>

<style>
	.plan {
		display: grid;
		grid-template-columns: repeat(8, minmax(0, 1fr));
		grid-auto-flow: dense;
		gap: 0.7rem;
		align-items: start;
	}
	.room {
		grid-column: span var(--span);
		border: 3px double var(--rule);
		padding: 0.35rem 0.6rem 0.6rem;
	}
	.seats {
		display: grid;
		grid-template-columns: repeat(var(--span), minmax(0, 1fr));
		gap: 0.55rem;
	}
	@media (max-width: 1180px) {
		.plan {
			grid-template-columns: repeat(4, minmax(0, 1fr));
		}
		.room {
			grid-column: span min(4, var(--span));
		}
		.seats {
			grid-template-columns: repeat(min(4, var(--span)), minmax(0, 1fr));
		}
	}
	@media (max-width: 760px) {
		.plan,
		.seats {
			grid-template-columns: 1fr 1fr;
		}
		.room {
			grid-column: 1 / -1;
		}
	}
</style>
