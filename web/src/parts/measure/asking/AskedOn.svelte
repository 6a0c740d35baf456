<!-- Seats a trial is made. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../../api/queries';
	import { heardOf } from '../../../model/house/rooms';
	import type { NewTrial } from '../../../state/newTrial.svelte';

	type Props = { trial: NewTrial };
	let { trial }: Props = $props();

	const floor = createQuery(ask.floor);
	const others = $derived(
		heardOf(floor.data?.items ?? []).filter((seat) => !trial.seats.includes(seat.name))
	);
	let name = $state('');

	function add(): void {
		if (others.some((seat) => seat.name === name)) trial.seats = [...trial.seats, name].sort();
		name = '';
	}
</script>

<fieldset>
	<legend class="mb-1 font-semibold">Seats</legend>
	<div class="flex flex-wrap items-center gap-2">
		{#each trial.seats as seat (seat)}
			<span class="seat">
				{seat}
				<button
					type="button"
					aria-label="Remove {seat}"
					onclick={() => (trial.seats = trial.seats.filter((other) => other !== seat))}>×</button
				>
			</span>
		{/each}
		<select class="field w-44" aria-label="Add a seat" bind:value={name} onchange={add}>
			<option value="">add a seat…</option>
			{#each others as seat (seat.name)}<option value={seat.name}>{seat.name}</option>{/each}
		</select>
	</div>
	<p class="quiet mt-1">
		Each seat is measured separately. Several seats of one class make the result more certain for the class.
	</p>
</fieldset>

<style>
	.seat {
		display: inline-flex;
		gap: 0.4rem;
		border: 1px solid var(--rule);
		border-radius: 3px;
		background: var(--sheet);
		padding: 0.2rem 0.5rem;
	}
	button {
		color: var(--muted);
	}
</style>
