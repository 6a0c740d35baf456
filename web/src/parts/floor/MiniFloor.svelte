<!-- The floor, small: how each seat stands, and where those are that are spoken of. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { roomsOf, type Place } from '../../model/house/rooms';
	import Level from '../level/Level.svelte';

	type Props = { plan: Schemas['RoomOut'][]; spoken: Set<string> };
	let { plan, spoken }: Props = $props();

	const MANY = 40; // rooms: of more, those are drawn that are spoken of
	const status = (seat: Place): string =>
		seat.presence === 'never'
			? 'absent'
			: seat.presence === 'silent'
				? 'unread'
				: seat.off_norm
					? 'off-norm'
					: 'in-norm';
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
	aria-label="Selected on the floor: {[...spoken].join(', ') || 'no seats'}"
>
	{#each rooms as room (room.name)}
		<div class="room">
			<p class="quiet">{room.name}</p>
			<div class="mt-1 flex flex-wrap gap-1">
				{#each room.seats as seat (seat.name)}
					<span class="seat" class:spoken={spoken.has(seat.name)}>
						<Level size="small" status={status(seat)} words={seat.name} />
					</span>
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
	.seat {
		width: 22px;
		padding: 0 1px 3px;
		line-height: 1;
		border: 1px solid transparent;
	}
	.spoken {
		background: var(--wash);
		border-color: var(--ink);
	}
</style>
