<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import type { Facts, Store } from '../../model/words/facts';
	import { ago } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import { listen } from '../../state/shell/keys';
	import { route } from '../../state/shell/route.svelte';
	import { Selection } from '../../state/selection.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { waiving } from '../../state/waiving.svelte';
	import LeaveSheet from '../../parts/floor/LeaveSheet.svelte';
	import AskSheet from '../../parts/seat/AskSheet.svelte';
	import ClearSheet from '../../parts/seat/ClearSheet.svelte';
	import Machine from '../../parts/seat/Machine.svelte';
	import ReadingRow from '../../parts/seat/ReadingRow.svelte';
	import ReadSheet from '../../parts/seat/ReadSheet.svelte';
	import Strip from '../../parts/seat/Strip.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Bar from '../../parts/ui/Bar.svelte';

	type Props = { name: string };
	let { name }: Props = $props();
	type Row = Schemas['RowOut'];

	const at = $derived(route.query.get('at') ?? '');
	const seat = createQuery(() => ({ ...ask.seat(name, at), placeholderData: keepPreviousData }));
	const changes = createQuery(() => ask.changes(name));
	const selection = new Selection<number>();
	let opened = $state('');
	let asked = $state('');
	const acts = new Acts();
	let sheet = $state<'' | 'ask' | 'clear' | 'leave' | 'read'>('');

	const rows = $derived((seat.data?.families ?? []).flatMap((family) => family.rows));
	const wanting = $derived(rows.filter((row) => row.finding !== null && row.status === 'off-norm'));
	const settled = $derived(wanting.filter((row) => row.remote));
	const picked = $derived(wanting.filter((row) => row.finding !== null && selection.has(row.finding)));
	const chosen = $derived(picked.flatMap((row) => row.finding ?? []));
	const apps = $derived(((seat.data?.facts as Facts | null)?.applications ?? []).map((app) => app.id));
	const unread = $derived(rows.filter((row) => row.status === 'unread').length);
	const standing = $derived(
		unread ? `${unread} ${unread === 1 ? 'reading is' : 'readings are'} unread` : 'everything is in norm'
	);
	const correcting = $derived(session.may('correct') && !at);
	const waives = $derived(session.may('waive') && !at);
	const keyOf = (row: Row): string => `${row.setting} ${row.app ?? ''}`;
	const every = (): void => selection.set(settled.flatMap((row) => row.finding ?? []));

	$effect(() =>
		listen({
			c: correct,
			w: waive,
			a: every,
			Escape: () => selection.clear(),
			ArrowDown: () => step(1),
			ArrowUp: () => step(-1)
		})
	);

	function correct(): void {
		if (correcting) correction.plan(chosen);
	}

	function waive(): void {
		if (waives) waiving.begin(picked.map((row) => ({ seat: name, ...row })));
	}

	function step(by: number): void {
		const boxes = [...document.querySelectorAll<HTMLElement>('[data-pick]')];
		const here = boxes.indexOf(document.activeElement as HTMLElement);
		boxes[Math.min(boxes.length - 1, Math.max(0, here + by))]?.focus();
	}

	function toggleOf(row: Row): (() => void) | undefined {
		const finding = row.finding;
		if (finding === null || row.status !== 'off-norm' || !(correcting || waives)) return undefined;
		return () => selection.toggle(finding);
	}

	async function readNow(): Promise<void> {
		asked = (await acts.do(() => write.askForSurvey(name))) ? 'asked for a survey' : acts.refused;
	}

	function minutes(seconds: number): string {
		return `${Math.round(seconds / 60)} minutes`;
	}
</script>

<svelte:head><title>{name} · Normant</title></svelte:head>
<Ask of={seat}>
	{#snippet children(found)}
		<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
			<h1 class="text-2xl">{found.name}</h1>
			<p class="word">
				{[found.role, found.room, found.production].filter(Boolean).join(', ')} ·
				{found.presence === 'silent' ? 'silent, last heard' : 'read'}
				{ago(found.seen_at)}
			</p>
			{#if found.clock_behind && !at}
				<p class="text-sienna">
					Its clock is {minutes(found.clock_behind)} behind: what changes here is dated too early.
				</p>
			{/if}
		</div>
		<div class="mt-3 mb-4 flex flex-wrap items-center gap-3">
			{#if correcting && settled.length}
				<button class="do" onclick={() => (every(), correct())}>
					Correct all {settled.length}
				</button>
			{/if}
			{#if correcting}
				<button class="may" onclick={readNow}>Read this seat now</button>
				<button class="may" onclick={() => (sheet = 'ask')}>Ask the editor…</button>
			{/if}
			{#if session.may('see the house')}
				<a class="may no-underline" href="/seats/{name}/compare{at ? `?at=${encodeURIComponent(at)}` : ''}"
					>Compare this seat</a
				>
			{/if}
			{#if session.may('bring readings') && !at}
				<button class="may" onclick={() => (sheet = 'read')}>Enter a reading</button>
			{/if}
			{#if correcting && session.may('enrol')}
				<button class="may" onclick={() => (sheet = 'leave')}>Retire or replace…</button>
			{/if}
			<p class="quiet" role="status">
				{asked || (found.off_norm ? '' : standing)}
			</p>
		</div>
		{#if found.seen_at}
			<div class="mb-5">
				<Strip changes={changes.data?.items ?? []} {at} onchoose={(moment) => route.filter('at', moment)} />
			</div>
		{/if}
		{#if !found.facts}
			<p class="quiet py-6">
				{at
					? 'Nothing was recorded of this seat yet at that moment.'
					: 'This seat has not sent a survey yet. Enrol its agent from the floor.'}
			</p>
		{:else}
			<div class="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_18.5rem]">
				<div>
					{#each found.families as family (family.family)}
						<section class="mb-4" aria-label={family.title}>
							<h2 class="mb-0.5 text-base">{family.title}</h2>
							{#each family.rows as row (keyOf(row))}
								<ReadingRow
									{row}
									selected={row.finding !== null && selection.has(row.finding)}
									open={opened === keyOf(row)}
									ontoggle={toggleOf(row)}
									onopen={() => (opened = opened === keyOf(row) ? '' : keyOf(row))}
								/>
							{/each}
						</section>
					{/each}
					{#if found.errors.length}
						<section aria-label="What could not be read">
							<h2 class="text-base">Unread</h2>
							{#each found.errors as error (error.source + error.message)}
								<p class="border-t border-hair py-1.5">
									<span class="value">{error.source}</span> <span class="quiet">{error.message}</span>
								</p>
							{/each}
						</section>
					{/if}
				</div>
				<Machine
					facts={found.facts as Facts}
					stores={found.stores as Store[]}
					flows={found.flows}
					budget={found.budget}
					onclear={correcting ? () => (sheet = 'clear') : undefined}
				/>
			</div>
		{/if}
		{#if selection.size}
			<Bar
				says="{found.name}: {picked.length} {picked.length === 1 ? 'reading' : 'readings'} selected"
				can={correcting && chosen.length > 0}
				oncorrect={correct}
				onwaive={waives && picked.length ? waive : undefined}
				onclear={() => selection.clear()}
			/>
		{/if}
	{/snippet}
</Ask>
{#if sheet === 'leave'}
	<LeaveSheet seat={name} onclose={() => (sheet = '')} />
{:else if sheet === 'ask'}
	<AskSheet seat={name} {apps} onclose={() => (sheet = '')} onasked={(told) => (asked = told)} />
{:else if sheet === 'clear'}
	<ClearSheet seat={name} onclose={() => (sheet = '')} />
{:else if sheet === 'read'}
	<ReadSheet seat={name} {apps} onclose={() => (sheet = '')} />
{/if}
