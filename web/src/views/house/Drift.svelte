<!-- The whole house as a grid of levels; what is chosen in it is corrected or waived. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { untrack } from 'svelte';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import {
		causeLinesOf,
		cellOf,
		columnsOf,
		GROUPINGS,
		linesOf,
		seatsOff,
		type Line
	} from '../../model/house/grid';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import { addressOf } from '../../state/newTrial.svelte';
	import { correction } from '../../state/correction.svelte';
	import { DriftCells } from '../../state/drift.svelte';
	import { listen } from '../../state/shell/keys';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { waiving } from '../../state/waiving.svelte';
	import AsOf from '../../parts/drift/AsOf.svelte';
	import DriftFilters from '../../parts/drift/DriftFilters.svelte';
	import DriftGrid from '../../parts/drift/DriftGrid.svelte';
	import DriftTabs from '../../parts/drift/DriftTabs.svelte';
	import PointedCell from '../../parts/drift/PointedCell.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Bar from '../../parts/ui/Bar.svelte';
	import Refused from '../../parts/ui/Refused.svelte';
	import TableLinks from '../../parts/ui/TableLinks.svelte';

	const SETTLED_MS = 120; // a pointer that passes over cells asks for none of them

	const at = $derived(route.query.get('at') ?? '');
	const drift = new DriftCells();
	const grid = createQuery(() => ({ ...ask.drift(at), placeholderData: keepPreviousData }));
	let pointed = $state<{ seat: string; setting: string; app: string | null }>();
	const acts = new Acts();

	const by = $derived(GROUPINGS.find((name) => name === route.query.get('by')) ?? 'room');
	const byCause = $derived(route.query.get('rows') === 'causes');
	const setting = $derived(route.query.get('setting') ?? '');
	const onlyOff = $derived(route.query.get('only') === 'off');
	const offSeats = $derived(onlyOff ? seatsOff(drift.cells, drift.seats.length) : new Set<number>());
	const columns = $derived(columnsOf(drift.seats, by, (seat) => !onlyOff || offSeats.has(seat)));
	const lines = $derived(
		byCause ? causeLinesOf(drift.causes) : linesOf(drift.rows, nameOf, onlyOff, setting)
	);
	const cell = createQuery(() => ({ ...ask.cell(pointed, at), placeholderData: undefined }));
	const correcting = $derived(session.may('correct') && !at);
	const waives = $derived(session.may('waive') && !at);
	const here = $derived.by(() => {
		const [line, seat] = [
			lines[drift.focus?.line ?? -1],
			drift.seats[columns.seats[drift.focus?.column ?? -1] ?? -1]
		];
		const row = line?.kind === 'row' ? drift.rows[line.row] : undefined;
		return row && seat && isTold(line) ? { seat: seat.name, setting: row.setting, app: row.app } : undefined;
	});
	/** Why no row is shown although seats have reported. */
	const emptyWords = $derived(
		!drift.rows.length
			? 'No setting has a norm yet. Publish a standard to compare seats with it.'
			: setting
				? 'No seat reports this setting.'
				: 'No setting is off norm.'
	);
	const chosenSeats = $derived(new Set(drift.chosen.all.map((place) => place % drift.seats.length)).size);
	const says = $derived(
		`${drift.chosen.size} ${drift.chosen.size === 1 ? 'setting' : 'settings'} on ${chosenSeats} ${chosenSeats === 1 ? 'seat' : 'seats'} selected`
	);

	$effect(() => {
		const told = grid.data;
		if (told) untrack(() => drift.take(told));
	});
	$effect(() => {
		const now = here;
		const timer = setTimeout(() => (pointed = now), SETTLED_MS);
		return () => clearTimeout(timer);
	});
	$effect(() =>
		listen({
			a: () => drift.toggleAll(drift.everywhere()),
			c: correct,
			w: waive,
			m: measure,
			Escape: () => drift.chosen.clear()
		})
	);

	async function found(): Promise<Schemas['PlacedOut'][]> {
		let items: Schemas['PlacedOut'][] = [];
		await acts.do(async () => {
			items = (await write.findingsAt(drift.places(drift.chosen.all))).items;
		});
		return items;
	}

	async function correct(): Promise<void> {
		if (!correcting || !drift.chosen.size) return;
		correction.plan((await found()).map((finding) => finding.id));
	}

	async function waive(): Promise<void> {
		if (waives && drift.chosen.size) waiving.begin(await found());
	}

	async function measure(): Promise<void> {
		if (!correcting || !drift.chosen.size) return;
		const findings = await found();
		route.go(
			addressOf(
				findings.map(({ seat }) => seat),
				findings
			)
		);
	}

	/** Whether there is a reading to tell of under the pointer, or one that should be there. */
	function isTold(line: Line | undefined): boolean {
		const seat = columns.seats[drift.focus?.column ?? -1] ?? -1;
		return line?.kind === 'row' && cellOf(drift.cells[drift.place(line.row, seat)] ?? 0).status !== 'no-norm';
	}
</script>

<svelte:head><title>Drift · Normant</title></svelte:head>
<Ask of={grid}>
	{#snippet children(now)}
		<div class="flex flex-wrap items-start gap-x-5">
			<DriftTabs says={now.sentence} />
			<DriftFilters {by} {byCause} {onlyOff} {setting} />
		</div>
		{#if lines.length && columns.seats.length}
			<DriftGrid
				{drift}
				{lines}
				{columns}
				words={cell.data?.words ?? ''}
				wide={byCause}
				onopen={(seat) => route.go(`/seats/${encodeURIComponent(seat)}`)}
			/>
		{:else}
			<p class="quiet border-y border-hair py-10">
				{drift.seats.length
					? emptyWords
					: at
						? 'No surveys were recorded at that time.'
						: 'No seat has sent a survey yet.'}
			</p>
		{/if}
		<div class="mt-2 flex min-h-12 flex-wrap items-start gap-x-6 gap-y-1">
			<PointedCell seat={here?.seat ?? ''} cell={pointed && cell.data} />
			<AsOf {at} onchoose={(moment) => route.filter('at', moment)} />
			<TableLinks path="/api/v1/findings" query={{ status: 'open', limit: '1000' }} />
		</div>
		<Refused {acts} />
		{#if drift.chosen.size}
			<Bar
				{says}
				can={correcting}
				oncorrect={correct}
				onwaive={waives ? waive : undefined}
				onmeasure={correcting ? measure : undefined}
				onclear={() => drift.chosen.clear()}
			/>
		{/if}
	{/snippet}
</Ask>
