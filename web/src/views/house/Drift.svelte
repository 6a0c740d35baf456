<!-- The whole house as a grid of levels; what is chosen in it is corrected or waived. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { untrack } from 'svelte';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { causeLinesOf, cellOf, columnsOf, isOff, linesOf, type Line } from '../../model/house/grid';
	import { moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import { DriftCells } from '../../state/drift.svelte';
	import { listen } from '../../state/shell/keys';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { waiving } from '../../state/waiving.svelte';
	import DriftGrid from '../../parts/drift/DriftGrid.svelte';
	import DriftTabs from '../../parts/drift/DriftTabs.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Bar from '../../parts/ui/Bar.svelte';
	import Refused from '../../parts/ui/Refused.svelte';
	import TableLinks from '../../parts/ui/TableLinks.svelte';

	const BY = ['room', 'hardware_class', 'production', 'role'] as const;
	const HOURS = 30 * 24;
	const HOUR = 3_600_000;
	const SETTLED_MS = 120; // a pointer that passes over cells asks for none of them

	const at = $derived(route.query.get('at') ?? '');
	const drift = new DriftCells();
	const grid = createQuery(() => ({ ...ask.drift(at), placeholderData: keepPreviousData }));
	let pointed = $state<{ seat: string; setting: string; app: string | null }>();
	const acts = new Acts();

	const by = $derived(BY.find((name) => name === route.query.get('by')) ?? 'room');
	const byCause = $derived(route.query.get('rows') === 'causes');
	const onlyOff = $derived(route.query.get('only') === 'off');
	const offSeats = $derived.by(() => {
		const found = new Set<number>(); // eslint-disable-line svelte/prefer-svelte-reactivity
		if (!onlyOff) return found;
		const [cells, seats] = [drift.cells, drift.seats.length];
		for (let place = 0; place < cells.length; place++) if (isOff(cells[place])) found.add(place % seats);
		return found;
	});
	const columns = $derived(columnsOf(drift.seats, by, (seat) => !onlyOff || offSeats.has(seat)));
	const lines = $derived(byCause ? causeLinesOf(drift.causes) : linesOf(drift.rows, nameOf, onlyOff));
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
	const chosenSeats = $derived(new Set(drift.chosen.all.map((place) => place % drift.seats.length)).size);
	const says = $derived(
		`${drift.chosen.size} ${drift.chosen.size === 1 ? 'reading' : 'readings'} on ${chosenSeats} ${chosenSeats === 1 ? 'seat' : 'seats'} selected`
	);
	const ago = $derived(at ? Math.round((Date.now() - Date.parse(at)) / HOUR) : 0);

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

	function back(hours: number): void {
		route.filter('at', hours ? new Date(Date.now() - hours * HOUR).toISOString() : '');
	}

	/** Whether there is a reading to tell of under the pointer, or one that should be there. */
	function isTold(line: Line | undefined): boolean {
		const seat = columns.seats[drift.focus?.column ?? -1] ?? -1;
		return line?.kind === 'row' && cellOf(drift.cells[drift.place(line.row, seat)] ?? 0).status !== 'no-norm';
	}

	const told = (name: string): string => name.replace('hardware_class', 'class');
</script>

<svelte:head><title>Drift · Normant</title></svelte:head>
<Ask of={grid}>
	{#snippet children(now)}
		<div class="flex flex-wrap items-start gap-x-5">
			<DriftTabs says={now.sentence} />
			<div class="mb-3 ml-auto flex flex-wrap items-center gap-x-4 gap-y-2">
				<label class="quiet flex items-center gap-2"
					>rows
					<select
						class="field w-auto py-1"
						value={byCause ? 'causes' : ''}
						onchange={(event) => route.filter('rows', event.currentTarget.value)}
						><option value="">by family</option><option value="causes">by cause</option></select
					></label
				>
				<label class="quiet flex items-center gap-2"
					>seats by
					<select
						class="field w-auto py-1"
						value={by}
						onchange={(event) => route.filter('by', event.currentTarget.value)}
						>{#each BY as name (name)}<option value={name}>{told(name)}</option>{/each}</select
					></label
				>
				<label class="quiet flex items-center gap-2"
					><input
						type="checkbox"
						checked={onlyOff}
						onchange={(event) => route.filter('only', event.currentTarget.checked ? 'off' : '')}
					/> only what is off norm</label
				>
			</div>
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
					? 'Nothing is off norm.'
					: at
						? 'Nothing was recorded yet at that moment.'
						: 'No seat has sent a survey yet.'}
			</p>
		{/if}
		<div class="mt-2 flex min-h-12 flex-wrap items-start gap-x-6 gap-y-1">
			<p class="min-w-0 flex-1" data-cell>
				{#if here && cell.data && pointed}
					<a class="anchor" href="/seats/{here.seat}">{here.seat}</a>: {cell.data.words}{cell.data.since
						? `, since ${moment(cell.data.since)}`
						: ''}.
					{#if cell.data.status === 'off-norm'}<span class="quiet">To put it right: {cell.data.fix}.</span
						>{/if}
				{:else if here}
					<span class="quiet">{here.seat}</span>
				{:else}
					<span class="quiet"
						>Point at a cell, or walk with the arrows: <kbd>n</kbd> next off norm, <kbd>space</kbd> select,
						<kbd>r</kbd> its row, <kbd>s</kbd> its seat, <kbd>g</kbd> its cause.</span
					>
				{/if}
			</p>
			<label class="quiet flex items-center gap-2"
				>as of
				<input
					type="range"
					min="0"
					max={HOURS}
					step="1"
					value={HOURS - ago}
					onchange={(event) => back(HOURS - Number(event.currentTarget.value))}
					aria-valuetext={at ? moment(at) : 'now'}
				/>
				<span class="value w-24">{at ? moment(at) : 'now'}</span></label
			>
			<TableLinks path="/api/v1/findings" query={{ status: 'open', limit: '1000' }} />
		</div>
		<Refused {acts} />
		{#if drift.chosen.size}
			<Bar
				{says}
				can={correcting}
				oncorrect={correct}
				onwaive={waives ? waive : undefined}
				onclear={() => drift.chosen.clear()}
			/>
		{/if}
	{/snippet}
</Ask>
