<!-- A seat goes: retired, or replaced by a new machine that takes over its place. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { Acts } from '../../state/acts.svelte';
	import { route } from '../../state/shell/route.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seat: string; onclose: () => void };
	let { seat, onclose }: Props = $props();

	let reason = $state('');
	let offer = $state<Schemas['EnrolmentOut']>();
	const acts = new Acts('seat');

	async function act(how: 'retire' | 'replace'): Promise<void> {
		const done = await acts.do(async () => {
			if (how === 'replace') offer = await write.replaceSeat(seat, reason);
			else await write.retireSeat(seat, reason);
		});
		if (done && how === 'retire') route.go('/floor');
	}
</script>

<Sheet title="Replace or retire {seat}" {onclose}>
	{#if offer}
		<p>
			On the new machine, run this command once within {offer.valid_hours} hours, then
			<span class="value">normant agent</span>:
		</p>
		<p class="value mt-3 border border-hair bg-sheet p-3" data-code={offer.code}>
			normant enrol {location.origin}
			{offer.code}
		</p>
	{:else}
		<label>Reason <input class="field mt-1 w-full" maxlength="300" bind:value={reason} /></label>
		<p class="quiet mt-3">
			The agent of this machine loses access; the history stays. A new machine gets the name, room, role and
			production, and starts a new history.
		</p>
		<Refused {acts} class="mt-2" />
		<div class="mt-4 flex gap-3">
			<button class="do" onclick={() => act('replace')}>Replace machine</button>
			<button class="may" onclick={() => act('retire')}>Retire seat</button>
		</div>
	{/if}
</Sheet>
