<!-- The house standard: sentences and text are two sides of one draft; what it would do stands beside both. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { untrack } from 'svelte';
	import { write } from '../../api/actions';
	import { Problem, type Schemas } from '../../api/client';
	import { ask, read } from '../../api/queries';
	import { moment } from '../../model/words/moment';
	import { heardOf } from '../../model/house/rooms';
	import { Acts } from '../../state/acts.svelte';
	import { Draft, type Seen } from '../../state/draft.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import DraftPanel from '../../parts/standard/DraftPanel.svelte';
	import Editions from '../../parts/standard/Editions.svelte';
	import Layers from '../../parts/standard/Layers.svelte';
	import StandardText from '../../parts/standard/StandardText.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	const standard = createQuery(ask.standard);
	const contradicted = createQuery(ask.contradicted);
	const floor = createQuery(ask.floor);
	const asText = $derived(route.query.get('as') === 'text');
	const seat = $derived(route.query.get('seat') ?? '');
	let draft = $state.raw<Draft>();
	let base = $state(0);
	let kept = $state.raw<Seen | null>(null); // the draft that is open, as it was read
	const acts = new Acts();
	let table = $state<HTMLInputElement>();

	const text = $derived(draft?.text ?? '');
	const norms = createQuery(() => ({
		...ask.norms(draft?.faults.length ? '' : text, seat),
		placeholderData: keepPreviousData
	}));
	const none = $derived(standard.error instanceof Problem && standard.error.status === 404);
	const publishing = $derived(session.may('publish'));
	const seats = $derived(heardOf(floor.data?.items ?? []).map((place) => place.name));
	const following = $derived(
		standard.data && !standard.data.followed_at && standard.data.of > 0
			? `; the house follows: ${standard.data.judged} of ${standard.data.of} seats`
			: ''
	);

	// Another edition begins another draft; what somebody is writing stays.
	$effect(() => {
		const now = standard.data;
		if (now && (!untrack(() => draft?.changed) || !untrack(() => draft))) begin(now.text, now.number);
	});

	function begin(text: string, from: number): void {
		draft = new Draft(text);
		base = from;
		kept = null;
	}

	async function edit(change: {
		layer: number;
		rule: number | null;
		fields: Schemas['RuleEditIn']['fields'];
		remove?: boolean;
	}): Promise<void> {
		await acts.do(async () => {
			draft?.replace((await write.editRule({ remove: false, ...change, text })).text);
		});
	}

	async function starter(): Promise<void> {
		const first = new Draft('');
		first.replace((await read.starter()).text);
		[draft, base, kept] = [first, 0, null];
	}

	async function back(number: number): Promise<void> {
		const old = await read.edition(number);
		draft?.replace(old.text);
		scrollTo(0, 0);
	}

	async function open(number: number): Promise<void> {
		const opened = await read.draft(number);
		draft?.replace(opened.text);
		[base, kept] = [opened.base, { id: opened.id, seen: opened.seen }];
		scrollTo(0, 0);
	}

	async function releases(): Promise<void> {
		const file = table?.files?.[0];
		if (!file) return;
		await acts.do(async () => {
			draft?.replace((await write.addReleases(text, file)).text);
		});
		if (table) table.value = '';
	}

	function done(): void {
		if (standard.data) begin(standard.data.text, standard.data.number);
	}
</script>

<svelte:head><title>Standard · Normant</title></svelte:head>
{#if none && !draft}
	<div class="py-6">
		<h1 class="text-2xl">No standard yet</h1>
		<p class="mt-2 max-w-[40em]">
			Nothing is off norm until somebody says what the house wants. The starter is a standard that fits nearly
			every house: engines that are there, memory that is not given away twice, caches on fast disks, and a
			guard for what is delivered.
		</p>
		{#if publishing}<button class="do mt-4" onclick={starter}>Begin with the starter</button>{/if}
	</div>
{:else if none && draft}
	<h1 class="mb-4 text-2xl">The first edition</h1>
	<div class="grid gap-5 lg:grid-cols-[minmax(0,1fr)_20rem]">
		{#key draft.replaced}<StandardText {draft} readonly={!publishing} />{/key}
		<aside aria-label="Before publishing">
			<DraftPanel
				{draft}
				{base}
				newest={0}
				{kept}
				second={false}
				onkept={(now) => (kept = now)}
				ondone={done}
			/>
		</aside>
	</div>
{:else}
	<Ask of={standard}>
		{#snippet children(found)}
			<div class="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
				<h1 class="text-2xl">{found.name}</h1>
				<p class="word">
					edition {found.number}, {moment(found.published_at)}{found.published_by
						? `, ${found.published_by}`
						: ''}{found.note ? `: ${found.note}` : ''}{following}
				</p>
				<a class="anchor" href="/standard/templates">Project templates</a>
				<div class="ml-auto flex flex-wrap items-baseline gap-4">
					<label class="quiet flex items-center gap-2"
						>beside it
						<select
							class="field w-auto py-1"
							value={seat}
							onchange={(event) => route.filter('seat', event.currentTarget.value)}
							><option value="">no seat</option>{#each seats as name (name)}<option>{name}</option
								>{/each}</select
						></label
					>
					<div class="flex gap-4" role="group" aria-label="Shown as">
						<button class="as" aria-pressed={!asText} onclick={() => route.filter('as', '')}>Sentences</button
						>
						<button class="as" aria-pressed={asText} onclick={() => route.filter('as', 'text')}>Text</button>
					</div>
				</div>
			</div>
			<p class="quiet mb-3" data-folklore>{found.folklore}</p>
			<Refused {acts} class="mb-3" />
			{#if draft}
				<div class="grid gap-5 lg:grid-cols-[minmax(0,1fr)_20rem]">
					<div class="min-w-0">
						{#if asText}
							{#key draft.replaced + found.number}
								<StandardText {draft} readonly={!publishing} />
							{/key}
							{#if publishing}
								<label class="quiet mt-2 flex items-center gap-2"
									>Add releases from a CSV or XLSX table
									<input type="file" accept=".csv,.xlsx" bind:this={table} onchange={releases} /></label
								>
							{/if}
						{:else}
							<Layers
								layers={draft.told?.layers ?? found.layers}
								against={draft.changed ? [] : (contradicted.data?.items ?? [])}
								onseat={seat ? (norms.data?.items ?? []) : []}
								onedit={publishing ? edit : undefined}
							/>
						{/if}
					</div>
					<aside aria-label="Before publishing" class="lg:sticky lg:top-4 lg:self-start">
						<DraftPanel
							{draft}
							{base}
							newest={found.number}
							{kept}
							second={found.second_person}
							onkept={(now) => (kept = now)}
							ondone={done}
						/>
					</aside>
				</div>
			{/if}
			<Editions newest={found.number} read={kept} onopen={open} onback={back} />
		{/snippet}
	</Ask>
{/if}

<style>
	.as {
		color: var(--muted);
		border-bottom: 2px solid transparent;
	}
	.as[aria-pressed='true'] {
		color: var(--ink);
		font-weight: 600;
		border-color: var(--kelp);
	}
</style>
