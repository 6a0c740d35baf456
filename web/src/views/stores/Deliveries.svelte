<!-- What was delivered, and which productions have ended: by these alone renders and backups may go. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { Acts } from '../../state/acts.svelte';
	import DeliveriesOf from '../../parts/stores/deliveries/DeliveriesOf.svelte';
	import Productions from '../../parts/stores/deliveries/Productions.svelte';
	import Register from '../../parts/stores/deliveries/Register.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	const STATES = [
		['proposed', 'To be signed', 'No exports to sign. Seats propose the exports that they finish.'],
		['delivered', 'Delivered', ''],
		['withdrawn', 'Withdrawn', '']
	] as const;
	const deliveries = createQuery(ask.deliveries);
	const acts = new Acts('delivery');
	const may = $derived(session.may('correct'));
</script>

<svelte:head><title>Deliveries · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · deliveries</p>
<h1 class="mb-1 text-2xl">Deliveries</h1>
<p class="mb-4 max-w-[60rem]">
	Renders and backups of a project can be deleted only after its delivery is signed, and files of a production
	only after it has ended.
</p>
<Refused {acts} class="mb-3" />
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_24rem]">
	<Ask of={deliveries}>
		{#snippet children(list)}
			<div class="grid content-start gap-6">
				{#each STATES as [state, title, none] (state)}
					<DeliveriesOf {title} {none} rows={list.items.filter((row) => row.state === state)} {acts} {may} />
				{/each}
				{#if may}<Register {acts} />{/if}
			</div>
		{/snippet}
	</Ask>
	<Productions {acts} {may} />
</div>
