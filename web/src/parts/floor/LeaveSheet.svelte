<!-- A seat goes: retired, or replaced by a new machine that takes over its place. -->
<script lang="ts">
	import { api, data, type Schemas } from '../../api/client';
	import { queryClient } from '../../api/queries';
	import { route } from '../../state/route.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seat: string; onclose: () => void };
	let { seat, onclose }: Props = $props();

	let reason = $state('');
	let offer = $state<Schemas['EnrolmentOut']>();
	let refused = $state('');

	async function act(how: 'retire' | 'replace'): Promise<void> {
		const given = { params: { path: { name: seat } }, body: { reason } };
		try {
			if (how === 'replace') offer = await data(api.POST('/api/v1/seats/{name}/replace', given));
			else await api.POST('/api/v1/seats/{name}/retire', given);
			await queryClient.invalidateQueries({ queryKey: ['seat'] });
			if (how === 'retire') route.go('/floor');
		} catch (error) {
			refused = (error as Error).message;
		}
	}
</script>

<Sheet title="{seat} goes" {onclose}>
	{#if offer}
		<p>
			On the new machine, run this once within {offer.valid_hours} hours, then
			<span class="value">normant agent</span>:
		</p>
		<p class="value mt-3 border border-hair bg-sheet p-3" data-code={offer.code}>
			normant enrol {location.origin}
			{offer.code}
		</p>
	{:else}
		<label>Why <input class="field mt-1 w-full" maxlength="300" bind:value={reason} /></label>
		<p class="quiet mt-3">
			Its agent may not speak any more, and its history stays. A new machine takes over the name, the room,
			the role and the production, and begins a history of its own.
		</p>
		{#if refused}<p class="mt-2 text-oxblood" role="alert">{refused}</p>{/if}
		<div class="mt-4 flex gap-3">
			<button class="do" onclick={() => act('replace')}>A new machine takes its place</button>
			<button class="may" onclick={() => act('retire')}>Retire it</button>
		</div>
	{/if}
</Sheet>
