<!-- The house standard: sentences and text are two sides of one draft; what it would do stands beside both. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { untrack } from 'svelte';
	import { Problem } from '../../api/client';
	import { gradesOf } from '../../model/measure/words';
	import { ask } from '../../api/queries';
	import { OpenDraft } from '../../state/openDraft.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import AddReleases from '../../parts/standard/AddReleases.svelte';
	import DraftPanel from '../../parts/standard/DraftPanel.svelte';
	import Editions from '../../parts/standard/Editions.svelte';
	import Layers from '../../parts/standard/Layers.svelte';
	import StandardHead from '../../parts/standard/StandardHead.svelte';
	import StandardText from '../../parts/standard/StandardText.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	const standard = createQuery(ask.standard);
	const contradicted = createQuery(ask.contradicted);
	const evidence = createQuery(ask.evidence);
	const trials = $derived(gradesOf(evidence.data?.items ?? []));
	const asText = $derived(route.query.get('as') === 'text');
	const seat = $derived(route.query.get('seat') ?? '');
	const opened = new OpenDraft();
	const draft = $derived(opened.draft);
	const norms = createQuery(() => ({
		...ask.norms(draft?.faults.length ? '' : (draft?.text ?? ''), seat),
		placeholderData: keepPreviousData
	}));
	const none = $derived(standard.error instanceof Problem && standard.error.status === 404);
	const publishing = $derived(session.may('publish'));

	// Another edition begins another draft; what somebody is writing stays.
	$effect(() => {
		const now = standard.data;
		if (now && !untrack(() => draft?.changed)) opened.begin(now.text, now.number);
		const kept = Number(route.query.get('draft'));
		if (now && kept && untrack(() => opened.kept?.id) !== kept) void opened.open(kept);
	});

	function beginAnew(): void {
		if (standard.data) opened.begin(standard.data.text, standard.data.number);
	}

	async function fromTop(what: Promise<void>): Promise<void> {
		await what;
		scrollTo(0, 0);
	}
</script>

<svelte:head><title>Standard · Normant</title></svelte:head>
{#if none && !draft}
	<div class="py-6">
		<h1 class="text-2xl">No standard yet</h1>
		<p class="mt-2 max-w-[40em]">
			Nothing can be checked until a standard is published. The starter standard suits most facilities:
			engines that exist, memory that is not assigned twice, caches on fast disks, and safe delivery settings.
		</p>
		{#if publishing}<button class="do mt-4" onclick={() => opened.starter()}>Use starter standard</button
			>{/if}
	</div>
{:else if none}
	<h1 class="mb-4 text-2xl">First edition</h1>
	<div class="grid gap-5 lg:grid-cols-[minmax(0,1fr)_20rem]">
		{@render text(0)}
		{@render panel(0, false)}
	</div>
{:else}
	<Ask of={standard}>
		{#snippet children(edition)}
			<StandardHead {edition} {asText} {seat} />
			<p class="quiet mb-3" data-folklore>{edition.folklore}{trials}</p>
			<Refused acts={opened.acts} class="mb-3" />
			<div class="grid gap-5 lg:grid-cols-[minmax(0,1fr)_20rem]">
				<div class="min-w-0">
					{#if asText}
						{@render text(edition.number)}
						{#if publishing}<AddReleases onadd={(table) => opened.addReleases(table)} />{/if}
					{:else}
						<Layers
							layers={draft?.told?.layers ?? edition.layers}
							against={draft?.changed ? [] : (contradicted.data?.items ?? [])}
							evidence={draft?.changed ? [] : (evidence.data?.items ?? [])}
							onseat={seat ? (norms.data?.items ?? []) : []}
							onedit={publishing ? (edit) => opened.edit(edit) : undefined}
						/>
					{/if}
				</div>
				{@render panel(edition.number, edition.second_person)}
			</div>
			<Editions
				newest={edition.number}
				read={opened.kept}
				onopen={(number) => fromTop(opened.open(number))}
				onback={(number) => fromTop(opened.goBackTo(number))}
			/>
		{/snippet}
	</Ask>
{/if}

{#snippet text(number: number)}
	{#if draft}
		{#key draft.replaced + number}<StandardText {draft} readonly={!publishing} />{/key}
	{/if}
{/snippet}

{#snippet panel(newest: number, second: boolean)}
	<aside aria-label="Before publishing" class="lg:sticky lg:top-4 lg:self-start">
		{#if draft}
			<DraftPanel
				{draft}
				base={opened.base}
				{newest}
				kept={opened.kept}
				{second}
				onkept={(now) => opened.keep(now)}
				onpublished={(text, number) => opened.published(text, number)}
				onscheduled={beginAnew}
			/>
		{/if}
	</aside>
{/snippet}
