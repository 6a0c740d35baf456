<!-- Standing care: the sentences by which the house keeps its own disks, and what became of each. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import CareSentence from '../../parts/stores/care/CareSentence.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const care = createQuery(ask.standingCare);
</script>

<svelte:head><title>Standing care · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · standing care</p>
<div class="mb-1 flex flex-wrap items-baseline gap-x-5">
	<h1 class="flex-1 text-2xl">Standing care</h1>
	<a class="may" href="/standard">Write it in the standard</a>
</div>
<p class="mb-4 max-w-[60rem]">
	What goes by itself, in sentences of the standard. The first time, and whenever it would take half as much
	again, a person signs its lists; otherwise it stays within what was agreed to.
</p>
<Ask of={care}>
	{#snippet children(list)}
		{#each list.items as sentence (sentence.name)}
			<CareSentence care={sentence} />
		{:else}
			<p>
				None yet. In a layer of the standard, choose “Standing care”: what nobody used for a month may go each
				Sunday night, within limits.
			</p>
		{/each}
	{/snippet}
</Ask>
