<!-- One errand, as the code on its sheet opens it on a phone. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import ErrandCard from '../../parts/errands/ErrandCard.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const errand = createQuery(() => ask.errand(number));
</script>

<svelte:head><title>Errand {number} · Normant</title></svelte:head>
<Ask of={errand}>
	{#snippet children(found)}
		<p><a class="anchor underline" href="/errands">All errands</a></p>
		<h1 class="mt-2 text-2xl">{found.does}</h1>
		<p class="word mt-1 mb-3">
			<span class="font-semibold">{found.seat}</span>{found.room ? `, ${found.room}` : ''}, about {found.minutes}
			minutes
		</p>
		<ErrandCard errand={found} />
	{/snippet}
</Ask>
