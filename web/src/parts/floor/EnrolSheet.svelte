<script lang="ts">
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
			On {offer.seat}, run this once within {offer.valid_hours} hours, then
			<span class="value">normant agent</span>:
		</p>
		<p class="value mt-3 border border-hair bg-sheet p-3" data-code={offer.code}>{command}</p>
		<p class="quiet mt-3">The code works once and is not shown again.</p>
		{#if offer.key}
			<p class="mt-3">
				With the key the seat takes orders of this house alone. Where it asks, it must be this one:
				<span class="value block" data-key>{offer.key}</span>
			</p>
		{/if}
	{:else}
		<form class="grid gap-3" onsubmit={make}>
			<label>Name of the seat <input class="field mt-1 w-full" required bind:value={given.seat} /></label>
			<label
				>Role <input
					class="field mt-1 w-full"
					bind:value={given.role}
					placeholder="offline, assist, comp …"
				/></label
			>
			<label>Room <input class="field mt-1 w-full" bind:value={given.room} /></label>
			<label>Production <input class="field mt-1 w-full" bind:value={given.production} /></label>
			<Refused {acts} />
			<button class="do justify-self-start">Make a code</button>
		</form>
	{/if}
</Sheet>
