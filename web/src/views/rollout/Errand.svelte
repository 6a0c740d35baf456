<!-- One errand, as the code on its printed sheet opens it on a phone. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import ErrandCard from '../../parts/errands/ErrandCard.svelte';
	import ErrandSeat from '../../parts/errands/ErrandSeat.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const errand = createQuery(() => ask.errand(number));
</script>

<svelte:head><title>Errand {number} · Normant</title></svelte:head>
<Ask of={errand}>
	{#snippet children(loaded)}
		<p><a class="anchor underline" href="/errands">All errands</a></p>
		<div class="mt-2 grid gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_26rem]">
			<div>
				<h1 class="text-2xl">{loaded.does}</h1>
				<p class="word mt-1 mb-3">
					<span class="font-semibold">{loaded.seat}</span>{loaded.room ? `, ${loaded.room}` : ''}, about {loaded.minutes}
					minutes
				</p>
				<ErrandCard errand={loaded} />
			</div>
			<ErrandSeat errand={loaded} />
		</div>
	{/snippet}
</Ask>
