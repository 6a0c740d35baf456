<!-- An errand in somebody's own words. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	const floor = createQuery(ask.floor);
	let seat = $state('');
	let does = $state('');
	let steps = $state('');
	let bring = $state('');
	let minutes = $state(10);
	const acts = new Acts('errand');

	const lines = (text: string): string[] =>
		text
			.split('\n')
			.map((line) => line.trim())
			.filter(Boolean);

	async function give(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const errand = { seat, does, steps: lines(steps), bring: lines(bring), minutes, note: '' };
		if (await acts.do(() => write.giveErrand(errand))) onclose();
	}
</script>

<Sheet title="Create errand" {onclose}>
	<form class="grid gap-3" onsubmit={give}>
		<label class="grid gap-1">
			<span>Seat</span>
			<input class="field" list="seats-of-house" required maxlength="64" bind:value={seat} />
		</label>
		<datalist id="seats-of-house">
			{#each floor.data?.items ?? [] as room (room.name)}
				{#each room.seats as one (one.name)}<option value={one.name}>{room.name}</option>{/each}
			{/each}
		</datalist>
		<label class="grid gap-1">
			<span>Task</span>
			<input class="field" required maxlength="200" bind:value={does} />
		</label>
		<label class="grid gap-1">
			<span>Steps (one per line)</span>
			<textarea class="field" rows="5" required bind:value={steps}></textarea>
		</label>
		<label class="grid gap-1">
			<span>Items to bring (one per line)</span>
			<textarea class="field" rows="2" bind:value={bring}></textarea>
		</label>
		<label class="grid w-32 gap-1">
			<span>Estimated minutes</span>
			<input class="field" type="number" min="1" max="1440" required bind:value={minutes} />
		</label>
		<Refused {acts} />
		<p><button class="do" disabled={!lines(steps).length}>Create errand</button></p>
	</form>
</Sheet>
