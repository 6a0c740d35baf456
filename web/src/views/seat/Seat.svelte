<!-- The whole record of a seat, now or as it was: every reading with its norm, the machine, what changed when. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import type { Facts, Store } from '../../model/words/facts';
	import { ago } from '../../model/words/moment';
	import { addressOf } from '../../state/newTrial.svelte';
	import { correction } from '../../state/correction.svelte';
	import { Selection } from '../../state/selection.svelte';
	import { listen } from '../../state/shell/keys';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { waiving } from '../../state/waiving.svelte';
	import ClearSheet from '../../parts/seat/ClearSheet.svelte';
	import Families from '../../parts/seat/Families.svelte';
	import Machine from '../../parts/machine/Machine.svelte';
	import Volumes from '../../parts/machine/Volumes.svelte';
	import SeatActions from '../../parts/seat/SeatActions.svelte';
	import Strip from '../../parts/seat/Strip.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Bar from '../../parts/ui/Bar.svelte';

	type Props = { name: string };
	let { name }: Props = $props();
	type Row = Schemas['RowOut'];

	const at = $derived(route.query.get('at') ?? '');
	const ofHouse = $derived(session.may('see the house'));
	const seat = createQuery(() => ({ ...ask.seat(name, at), placeholderData: keepPreviousData }));
	const changes = createQuery(() => ask.changes(name));
	const volumes = createQuery(() => ({ ...ask.volumesOf(name), enabled: ofHouse }));
	const selection = new Selection<number>();
	let clearing = $state(false);

	const rows = $derived((seat.data?.families ?? []).flatMap((family) => family.rows));
	const wanting = $derived(rows.filter((row) => row.finding !== null && row.status === 'off-norm'));
	const settled = $derived(wanting.filter((row) => row.remote));
	const picked = $derived(wanting.filter(isPicked));
	const chosen = $derived(picked.flatMap((row) => row.finding ?? []));
	const apps = $derived(((seat.data?.facts as Facts | null)?.applications ?? []).map((app) => app.id));
	const unread = $derived(rows.filter((row) => row.status === 'unread').length);
	const standing = $derived(
		unread ? `${unread} ${unread === 1 ? 'setting' : 'settings'} unknown` : 'everything is in norm'
	);
	const correcting = $derived(session.may('correct') && !at);
	const waives = $derived(session.may('waive') && !at);
	const going = $derived(
		at ? {} : Object.fromEntries((volumes.data?.items ?? []).map((volume) => [volume.volume, volume.words]))
	);
	const every = (): void => selection.set(settled.flatMap((row) => row.finding ?? []));

	$effect(() =>
		listen({
			c: correct,
			w: waive,
			m: measure,
			a: every,
			Escape: () => selection.clear(),
			ArrowDown: () => step(1),
			ArrowUp: () => step(-1)
		})
	);

	function isPicked(row: Row): boolean {
		return row.finding !== null && selection.has(row.finding);
	}

	function correct(): void {
		if (correcting) correction.plan(chosen);
	}

	function waive(): void {
		if (waives) waiving.begin(picked.map((row) => ({ seat: name, ...row })));
	}

	/** Settle by runs whether what was picked matters; without any, ask something of this seat. */
	function measure(): void {
		if (!correcting) return;
		route.go(addressOf([name], picked));
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
</script>

<svelte:head><title>{name} · Normant</title></svelte:head>
<Ask of={seat}>
	{#snippet children(record)}
		<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
			<h1 class="text-2xl">{record.name}</h1>
			<p class="word">
				{[record.role, record.room, record.production].filter(Boolean).join(', ')} ·
				{record.presence === 'silent' ? 'not responding, last survey' : 'surveyed'}
				{ago(record.seen_at)}
			</p>
			{#if record.clock_behind && !at}
				<p class="text-sienna">
					The clock of this seat is {Math.round(record.clock_behind / 60)} minutes slow: changes are dated too early.
				</p>
			{/if}
		</div>
		<SeatActions
			seat={name}
			{at}
			{apps}
			settled={settled.length}
			standing={record.off_norm ? '' : standing}
			oncorrect={() => (every(), correct())}
		/>
		{#if record.seen_at}
			<div class="mb-5">
				<Strip changes={changes.data?.items ?? []} {at} onchoose={(moment) => route.filter('at', moment)} />
			</div>
		{/if}
		{#if !record.facts}
			<p class="quiet py-6">
				{at
					? 'No survey of this seat was recorded at that time.'
					: 'This seat has not sent a survey yet. Enrol its agent on the Floor.'}
			</p>
		{:else}
			<div class="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_18.5rem]">
				<Families {record} {isPicked} {toggleOf} />
				<Machine facts={record.facts as Facts} flows={record.flows} budget={record.budget}>
					{#snippet volumes()}
						<Volumes
							volumes={(record.facts as Facts).volumes}
							stores={record.stores as Store[]}
							{going}
							seat={ofHouse && !at ? name : undefined}
							onclear={correcting ? () => (clearing = true) : undefined}
						/>
					{/snippet}
				</Machine>
			</div>
		{/if}
		{#if selection.size}
			<Bar
				says="{record.name}: {picked.length} {picked.length === 1 ? 'setting' : 'settings'} selected"
				can={correcting && chosen.length > 0}
				oncorrect={correct}
				onwaive={waives && picked.length ? waive : undefined}
				onmeasure={correcting && picked.length ? measure : undefined}
				onclear={() => selection.clear()}
			/>
		{/if}
	{/snippet}
</Ask>
{#if clearing}<ClearSheet seat={name} onclose={() => (clearing = false)} />{/if}
