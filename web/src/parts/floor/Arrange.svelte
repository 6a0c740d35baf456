<!-- The floor while it is arranged: drag seats and rooms, or move them with the arrow keys. -->
<script lang="ts">
	import { Acts } from '../../state/acts.svelte';
	import { Arrangement, type Placing } from '../../state/arrangement.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { rooms: Placing[]; seen: string; onclose: () => void };
	let { rooms, seen, onclose }: Props = $props();

	// The floor as it stood when arranging began: news of other seats must not undo what was dragged.
	// svelte-ignore state_referenced_locally
	const floor = new Arrangement(rooms, seen);
	let held = $state<{ seat?: string; room?: string }>({});
	const acts = new Acts('seat');

	const STEPS: Record<string, [number, number]> = {
		ArrowRight: [1, 0],
		ArrowLeft: [-1, 0],
		ArrowDown: [0, 1],
		ArrowUp: [0, -1]
	};

	function over(event: DragEvent): void {
		event.preventDefault();
	}

	function dropSeat(event: DragEvent, room: string, place: number): void {
		event.preventDefault();
		event.stopPropagation();
		if (held.seat) floor.put(held.seat, room, place);
		else if (held.room)
			floor.putRoom(
				held.room,
				floor.rooms.findIndex((one) => one.room === room)
			);
		held = {};
	}

	function pressSeat(event: KeyboardEvent, seat: string): void {
		const step = STEPS[event.key];
		if (!step) return;
		event.preventDefault();
		floor.step(seat, ...step);
		requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-chip="${seat}"]`)?.focus());
	}

	function pressRoom(event: KeyboardEvent, room: string, place: number): void {
		const step = STEPS[event.key];
		if (!step) return;
		event.preventDefault();
		floor.putRoom(room, step[0] + step[1] > 0 ? place + 2 : place - 1);
		requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-room="${room}"]`)?.focus());
	}

	async function save(): Promise<void> {
		if (await acts.do(() => floor.save())) onclose();
	}
</script>

<div class="mb-4 flex flex-wrap items-center gap-3">
	<p class="word">Drag seats and rooms to their places, or move them with the arrow keys.</p>
	<button class="do ml-auto" onclick={save}>Save</button>
	<button class="may" onclick={onclose}>Cancel</button>
</div>
<p class="sr-only" role="status">{floor.said}</p>
<Refused {acts} class="mb-3" />
<div class="flex flex-wrap gap-3">
	{#each floor.rooms as { room, seats }, place (room)}
		<section
			class="room"
			aria-label={room}
			ondragover={over}
			ondrop={(event) => dropSeat(event, room, seats.length)}
			role="group"
		>
			<button
				class="handle"
				draggable="true"
				data-room={room}
				ondragstart={() => (held = { room })}
				onkeydown={(event) => pressRoom(event, room, place)}>{room}</button
			>
			<ul class="flex flex-wrap gap-1.5">
				{#each seats as seat, index (seat)}
					<li ondragover={over} ondrop={(event) => dropSeat(event, room, index)}>
						<button
							class="chip"
							draggable="true"
							data-chip={seat}
							ondragstart={() => (held = { seat })}
							onkeydown={(event) => pressSeat(event, seat)}>{seat}</button
						>
					</li>
				{/each}
			</ul>
		</section>
	{/each}
</div>

<style>
	.room {
		border: 3px double var(--rule);
		padding: 0.6rem 0.7rem;
		min-width: 12rem;
		max-width: 26rem;
	}
	.handle {
		font-family: var(--font-head);
		font-weight: 600;
		cursor: grab;
		margin-bottom: 0.5rem;
	}
	.chip {
		background: var(--sheet);
		border: 1px solid var(--rule);
		padding: 0.25rem 0.6rem;
		cursor: grab;
	}
</style>
