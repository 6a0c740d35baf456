<!-- Standing care: the sentences by which the house keeps its own disks, and what became of each. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import CareSentence from '../../parts/stores/care/CareSentence.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const care = createQuery(ask.standingCare);
</script>

<svelte:head><title>Automatic clean-up · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · automatic clean-up</p>
<div class="mb-1 flex flex-wrap items-baseline gap-x-5">
	<h1 class="flex-1 text-2xl">Automatic clean-up</h1>
	<a class="may" href="/standard">Edit in the standard</a>
</div>
<p class="mb-4 max-w-[60rem]">
	Files that are deleted on a schedule, as the standard says. A person signs the first run, and each run that
	is more than 50 % larger than approved.
</p>
<Ask of={care}>
	{#snippet children(list)}
		{#each list.items as sentence (sentence.name)}
			<CareSentence care={sentence} />
		{:else}
			<p>
				No automatic clean-up yet. Add “Automatic clean-up” to a layer of the standard: for example, delete
				files unused for a month every Sunday night, within limits.
			</p>
		{/each}
	{/snippet}
</Ask>
