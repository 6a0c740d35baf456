<!-- What the register says of several seats at once; an empty field leaves it as it is. -->
<script lang="ts">
	import { SEAT_ROLES } from '../../model/house/roles';
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seats: string[]; onclose: () => void };
	let { seats, onclose }: Props = $props();

	const classes = createQuery(ask.classes);
	let given = $state({ role: '', room: '', production: '', hardware_class: '', add: '', take: '' });
	const acts = new Acts('seat');

	const proposals = $derived(
		(classes.data?.items ?? []).filter((one) => seats.includes(one.seat)).map((one) => one.proposed)
	);
	const words = (text: string): string[] =>
		text
			.split(',')
			.map((word) => word.trim())
			.filter(Boolean);

	async function save(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const { add, take, ...columns } = given;
		const filled = Object.fromEntries(Object.entries(columns).filter(([, value]) => value.trim()));
		const change = { seats, ...filled, add_tags: words(add), take_tags: words(take) };
		if (await acts.do(() => write.editSeats(change))) onclose();
	}
</script>

<Sheet title="Edit {seats.length === 1 ? seats[0] : `${seats.length} seats`}" {onclose}>
	<form class="grid gap-3" onsubmit={save}>
		<p class="quiet">Empty fields are not changed.</p>
		<label
			>Role
			<select class="field mt-1 w-full" bind:value={given.role}>
				<option value="">unchanged</option>
				{#each SEAT_ROLES as role (role)}<option>{role}</option>{/each}
			</select></label
		>
		<label>Room <input class="field mt-1 w-full" maxlength="80" bind:value={given.room} /></label>
		<label>Production <input class="field mt-1 w-full" maxlength="80" bind:value={given.production} /></label>
		<label
			>Hardware class <input
				class="field mt-1 w-full"
				maxlength="80"
				bind:value={given.hardware_class}
			/></label
		>
		{#each [...new Set(proposals)] as proposed (proposed)}
			<p class="quiet">
				Suggested by similarity for {proposals.filter((one) => one === proposed).length}:
				<button type="button" class="anchor" onclick={() => (given.hardware_class = proposed)}
					>{proposed}</button
				>.
			</p>
		{/each}
		<label>Add tags <input class="field mt-1 w-full" bind:value={given.add} placeholder="UHD, loud" /></label>
		<label>Remove tags <input class="field mt-1 w-full" bind:value={given.take} /></label>
		<Refused {acts} />
		<button class="do justify-self-start">Save</button>
	</form>
</Sheet>
