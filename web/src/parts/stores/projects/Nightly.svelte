<!-- Productions whose projects are scanned each night. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import { Acts } from '../../../state/acts.svelte';
	import Ask from '../../ui/Ask.svelte';
	import Refused from '../../ui/Refused.svelte';

	type Props = { may: boolean };
	let { may }: Props = $props();

	const acts = new Acts('project');

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

<section aria-label="Nightly scans">
	<h2 class="mb-1 text-lg">Nightly scans</h2>
	<Ask of={nightly}>
		{#snippet children(list)}
			<ul>
				{#each list.items as look (look.id)}
					<li class="flex flex-wrap gap-x-3 border-t border-hair py-1">
						<span class="flex-1"
							>{look.production}
							<span class="quiet">{look.storage || 'media in any folder'}, by {look.made_by}</span></span
						>
						{#if may}
							<button
								class="anchor underline"
								disabled={acts.busy}
								onclick={() => acts.do(() => write.endNightly(look.id))}
								>Stop scanning {look.production}</button
							>
						{/if}
					</li>
				{:else}
					<li class="quiet">No nightly scans yet.</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	{#if may}
		<form class="mt-3 grid gap-2" onsubmit={begin}>
			<label class="grid gap-1"
				>Production
				<select class="field" required bind:value={production}>
					{#each live as { name } (name)}<option>{name}</option>{/each}
				</select></label
			>
			<label class="grid gap-1"
				>Media folder
				<input class="field value" maxlength="400" bind:value={storage} placeholder="any folder" /></label
			>
			<button class="may justify-self-start" disabled={acts.busy}>Scan every night</button>
			<Refused {acts} />
		</form>
	{/if}
</section>
