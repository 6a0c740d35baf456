<!-- Beside an errand: the machine of its seat, and the other open errands of the room. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import type { Facts, Store } from '../../model/words/facts';
	import Machine from '../machine/Machine.svelte';
	import Volumes from '../machine/Volumes.svelte';

	type Props = { errand: Schemas['ErrandOut'] };
	let { errand }: Props = $props();

	const seat = createQuery(() => ask.seat(errand.seat, ''));
	const errands = createQuery(ask.errands);
	const others = $derived(
		(errands.data?.stops ?? [])
			.filter((stop) => stop.room === errand.room)
			.flatMap((stop) => stop.errands)
			.filter((other) => other.id !== errand.id)
	);
	const facts = $derived((seat.data?.facts ?? null) as Facts | null);
	const stores = $derived((seat.data?.stores ?? []) as Store[]);
</script>

<aside class="grid content-start gap-6" aria-label="{errand.seat} and its room">
	<section>
		<h2 class="text-base">Other errands in {errand.room || 'no room'}</h2>
		<ul>
			{#each others as other (other.id)}
				<li class="grid grid-cols-[5.5rem_1fr_auto] gap-3 border-t border-hair py-2">
					<span class="value">{other.seat}</span>
					<a href="/errands/{other.id}">{other.does}</a>
					<span class="quiet">{other.minutes} min</span>
				</li>
			{:else}
				{#if errands.data}<li class="quiet mt-1">No other errands.</li>{/if}
			{/each}
		</ul>
	</section>
	{#if seat.data && facts}
		<Machine {facts} flows={seat.data.flows} budget={seat.data.budget}>
			{#snippet volumes()}<Volumes volumes={facts.volumes} {stores} going={{}} />{/snippet}
		</Machine>
	{/if}
</aside>
