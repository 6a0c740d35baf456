<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask, everyFinding } from '../../api/queries';
	import Arrange from '../../parts/floor/Arrange.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Bar from '../../parts/ui/Bar.svelte';
	import BringSheet from '../../parts/floor/BringSheet.svelte';
	import EditSheet from '../../parts/floor/EditSheet.svelte';
	import EnrolSheet from '../../parts/floor/EnrolSheet.svelte';
	import ImportSheet from '../../parts/floor/ImportSheet.svelte';
	import Legend from '../../parts/level/Legend.svelte';
	import { roomsOf, seatsOf, type Place } from '../../model/house/rooms';
	import Rooms from '../../parts/floor/Rooms.svelte';
	import TableLinks from '../../parts/ui/TableLinks.svelte';
	import { addressOf } from '../../state/newTrial.svelte';
	import { correction } from '../../state/correction.svelte';
	import { listen } from '../../state/shell/keys';
	import { route } from '../../state/shell/route.svelte';
	import { Selection } from '../../state/selection.svelte';
	import { session } from '../../state/shell/session.svelte';

	const FILTERS = ['role', 'production'] as const;

	const floor = createQuery(ask.floor);
	const selection = new Selection<string>();
	let doing = $state<'' | 'enrol' | 'bring' | 'import' | 'arrange' | 'edit'>('');

	const whole = $derived(roomsOf(floor.data?.items ?? []));
	const all = $derived(seatsOf(whole));
	const filtered = $derived(FILTERS.some((name) => route.query.get(name)));
	const rooms = $derived(
		filtered ? roomsOf(floor.data?.items ?? [], (seat) => FILTERS.every((name) => fits(seat, name))) : whole
	);
	const shown = $derived(seatsOf(rooms));
	const places = $derived(
		whole.map((room) => ({ room: room.name, seats: room.seats.map((seat) => seat.name) }))
	);
	const off = $derived(shown.filter((seat) => seat.off_norm > 0).length);
	const away = $derived(shown.filter((seat) => seat.presence !== 'here').length);
	const chosen = $derived(
		all.filter((seat) => selection.has(seat.name)).reduce((sum, seat) => sum + seat.off_norm, 0)
	);
	const can = $derived(session.may('correct') && chosen > 0);
	const count = (number: number, one: string): string => `${number} ${one}${number === 1 ? '' : 's'}`;

	$effect(() =>
		listen({
			c: correct,
			m: measure,
			a: () => selection.set(shown.filter((seat) => seat.off_norm).map((seat) => seat.name)),
			Escape: () => selection.clear()
		})
	);

	function fits(seat: Place, name: (typeof FILTERS)[number]): boolean {
		const wanted = route.query.get(name);
		return !wanted || seat[name] === wanted;
	}

	function options(name: (typeof FILTERS)[number]): string[] {
		return [...new Set(all.map((seat) => seat[name]).filter(Boolean))].sort();
	}

	function measure(): void {
		if (session.may('correct') && selection.size) route.go(addressOf(selection.all));
	}

	async function correct(): Promise<void> {
		if (can) correction.plan((await everyFinding(selection.all)).map((finding) => finding.id));
	}
</script>

<svelte:head><title>Floor · Normant</title></svelte:head>
<Ask of={floor}>
	<div class="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
		<h1 class="text-2xl">{count(shown.length, 'seat')}</h1>
		<p class="word">{off ? `${off} off norm` : 'all in norm'}{away ? `, ${away} not responding` : ''}</p>
		<div class="ml-auto flex flex-wrap items-center gap-3">
			{#each FILTERS as name (name)}
				<label class="quiet flex items-center gap-2">
					{name}
					<select
						class="field w-auto py-1"
						value={route.query.get(name) ?? ''}
						onchange={(event) => route.filter(name, event.currentTarget.value)}
					>
						<option value="">any</option>
						{#each options(name) as option (option)}<option>{option}</option>{/each}
					</select>
				</label>
			{/each}
			{#if session.may('bring readings')}
				<button class="may" onclick={() => (doing = 'bring')}>Upload a survey</button>
			{/if}
			{#if session.may('enrol')}
				<button class="may" onclick={() => (doing = 'enrol')}>Enrol seat</button>
				<button class="may" onclick={() => (doing = 'import')}>Import register</button>
				<button class="may" onclick={() => (doing = 'arrange')}>Arrange floor</button>
			{/if}
		</div>
	</div>
	{#if doing === 'arrange'}
		<Arrange rooms={places} seen={floor.data?.seen ?? ''} onclose={() => (doing = '')} />
	{:else if shown.length}
		<Rooms {rooms} {selection} />
	{:else}
		<p class="quiet py-8">{all.length ? 'No seats match these filters.' : 'No seat is enrolled yet.'}</p>
	{/if}
	{#if selection.size}
		<Bar
			says="{count(selection.size, 'seat')}, {count(chosen, 'setting')} off norm"
			{can}
			oncorrect={correct}
			onmeasure={session.may('correct') ? measure : undefined}
			onclear={() => selection.clear()}
			onedit={session.may('enrol') ? () => (doing = 'edit') : undefined}
		/>
	{/if}
	<div class="mt-5 flex flex-wrap items-end justify-between gap-4">
		<Legend />
		<TableLinks path="/api/v1/seat-table" query={{ limit: '500' }} />
	</div>
</Ask>
{#if doing === 'enrol'}
	<EnrolSheet onclose={() => (doing = '')} />
{:else if doing === 'bring'}
	<BringSheet onclose={() => (doing = '')} />
{:else if doing === 'import'}
	<ImportSheet onclose={() => (doing = '')} />
{:else if doing === 'edit'}
	<EditSheet seats={selection.all} onclose={() => (doing = '')} />
{/if}
