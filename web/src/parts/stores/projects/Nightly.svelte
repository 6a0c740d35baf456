<!-- Productions all of whose projects are looked through each night. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import type { Acts } from '../../../state/acts.svelte';
	import Ask from '../../ui/Ask.svelte';

	type Props = { acts: Acts; may: boolean };
	let { acts, may }: Props = $props();

	const nightly = createQuery(ask.nightly);
	const productions = createQuery(ask.productions);
	const live = $derived((productions.data?.items ?? []).filter(({ seats }) => seats));
	let production = $state('');
	let storage = $state('');

	async function begin(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.do(() => write.lookEachNight(production, storage))) storage = '';
	}
</script>

<section aria-label="Each night">
	<h2 class="mb-1 text-lg">Each night</h2>
	<Ask of={nightly}>
		{#snippet children(list)}
			<ul>
				{#each list.items as look (look.id)}
					<li class="flex flex-wrap gap-x-3 border-t border-hair py-1">
						<span class="flex-1"
							>{look.production}
							<span class="quiet">{look.storage || 'media anywhere'}, by {look.made_by}</span></span
						>
						{#if may}
							<button
								class="anchor underline"
								disabled={acts.busy}
								onclick={() => acts.do(() => write.endNightly(look.id))}>End {look.production}</button
							>
						{/if}
					</li>
				{:else}
					<li class="quiet">No production’s projects are looked through by themselves.</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	{#if may}
		<form class="mt-3 grid gap-2" onsubmit={begin}>
			<label class="grid gap-1"
				>All projects of
				<select class="field" required bind:value={production}>
					{#each live as { name } (name)}<option>{name}</option>{/each}
				</select></label
			>
			<label class="grid gap-1"
				>whose media belong in
				<input class="field value" maxlength="400" bind:value={storage} placeholder="anywhere" /></label
			>
			<button class="may justify-self-start" disabled={acts.busy}>Look each night</button>
		</form>
	{/if}
</section>
