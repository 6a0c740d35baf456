<!-- The floor, small: where the seats that are spoken of stand. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { roomsOf } from '../../model/rooms';

	type Props = { plan: Schemas['RoomOut'][]; spoken: Set<string> };
	let { plan, spoken }: Props = $props();

	const MANY = 40; // rooms: of more, those are drawn that are spoken of
	const whole = $derived(roomsOf(plan));
	const rooms = $derived(
		whole.length <= MANY
			? whole
			: whole.filter((room) => room.seats.some((seat) => spoken.has(seat.name))).slice(0, MANY)
	);
</script>

<div
	class="flex flex-wrap gap-3"
	role="img"
	aria-label="On the floor: {[...spoken].join(', ') || 'nothing chosen'}"
>
	{#each rooms as room (room.name)}
		<div class="room">
			<p class="quiet">{room.name}</p>
			<div class="mt-1 flex flex-wrap gap-1">
				{#each room.seats as seat (seat.name)}
					<span class="dot" class:spoken={spoken.has(seat.name)} title={seat.name}></span>
				{/each}
			</div>
		</div>
	{/each}
</div>

<style>
	.room {
		border: 3px double var(--rule);
		padding: 0.25rem 0.5rem 0.5rem;
	}
	.dot {
		width: 22px;
		height: 15px;
		border: 1px solid var(--hair);
		background: var(--wash);
	}
	.spoken {
		background: var(--sienna);
		border-color: var(--sienna);
	}
</style>
