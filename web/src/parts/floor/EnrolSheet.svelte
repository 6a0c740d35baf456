<script lang="ts">
	import { SEAT_ROLES } from '../../model/house/roles';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	let given = $state({ seat: '', role: '', room: '', production: '' });
	let offer = $state<Schemas['EnrolmentOut']>();
	const acts = new Acts('seat');

	const key = $derived(offer?.key ? ` --key ${offer.key.replaceAll(' ', '')}` : '');
	const command = $derived(offer ? `normant enrol ${location.origin} ${offer.code}${key}` : '');

	async function make(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		await acts.do(async () => {
			offer = await write.offerEnrolment(given);
		});
	}
</script>

<Sheet title="Enrol a seat" {onclose}>
	{#if offer}
		<p>
			On {offer.seat}, run this command once within {offer.valid_hours} hours, then
			<span class="value">normant agent</span>:
		</p>
		<p class="value mt-3 border border-hair bg-sheet p-3" data-code={offer.code}>{command}</p>
		<p class="quiet mt-3">The code works once and is not shown again.</p>
		{#if offer.key}
			<p class="mt-3">
				The agent accepts only orders signed with this key. If it asks, compare:
				<span class="value block" data-key>{offer.key}</span>
			</p>
		{/if}
	{:else}
		<form class="grid gap-3" onsubmit={make}>
			<label>Seat name <input class="field mt-1 w-full" required bind:value={given.seat} /></label>
			<label
				>Role <select class="field mt-1 w-full" bind:value={given.role}>
					<option value="">not known yet</option>
					{#each SEAT_ROLES as role (role)}<option>{role}</option>{/each}
				</select></label
			>
			<label>Room <input class="field mt-1 w-full" bind:value={given.room} /></label>
			<label>Production <input class="field mt-1 w-full" bind:value={given.production} /></label>
			<Refused {acts} />
			<button class="do justify-self-start">Create code</button>
		</form>
	{/if}
</Sheet>
