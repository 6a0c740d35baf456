<!-- The best volume for each store of a seat, drawn to scale, with the problems and the moves beside. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { heardOf } from '../../model/house/rooms';
	import { purposeWords } from '../../model/stores/bars';
	import type { Places } from '../../model/stores/placement';
	import { storage } from '../../model/words/sizes';
	import { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import PlacedStores from '../../parts/stores/PlacedStores.svelte';
	import PlacementBoard from '../../parts/stores/PlacementBoard.svelte';
	import StoreMoves from '../../parts/stores/StoreMoves.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	type Stores = Schemas['StorePlaceOut'][];

	const floor = createQuery(ask.floor);
	const seats = $derived(heardOf(floor.data?.items ?? []).map(({ name }) => name));
	const volumes = createQuery(ask.volumes);
	const withStores = $derived(volumes.data?.items.find((volume) => volume.stores.length)?.seat);
	const seat = $derived(route.query.get('seat') ?? withStores ?? (volumes.data ? seats[0] : undefined) ?? '');
	const placement = createQuery(() => ask.placement(seat));
	/** Where somebody put stores; until then they stand where they lie best. */
	let chosen = $state<{ seat: string; on: Places }>();
	const arrangement = $derived(chosen?.seat === seat ? chosen.on : undefined);
	const arranged = createQuery(() => ({
		...ask.arranged(seat, arrangement ?? {}),
		placeholderData: keepPreviousData
	}));
	const acts = new Acts('errand');

	const places = (stores: Stores, of: 'best' | 'now'): Places =>
		Object.fromEntries(
			stores.flatMap((store) => {
				const volume = store[of] ?? store.now;
				return volume ? [[store.name, volume] as const] : [];
			})
		);
	const standing = (stores: Stores): Places => arrangement ?? places(stores, 'best');

	const carry = (errand: Schemas['HandsOut']): Promise<boolean> =>
		acts.do(async () =>
			route.go(`/errands/${(await write.giveErrand({ ...errand, seat, bring: [], note: '' })).id}`)
		);
</script>

<svelte:head><title>Placement · Normant</title></svelte:head>
<div class="mb-3 flex flex-wrap items-end gap-x-6 gap-y-2">
	<div class="min-w-0 flex-1">
		<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · placement</p>
		<h1 class="text-2xl">Store placement on {seat}</h1>
		<p class="quiet">Heights are to scale. Drag a store to another volume, or use the arrow keys.</p>
	</div>
	<label class="grid gap-1">
		Seat
		<select
			class="field w-40"
			value={seat}
			onchange={(event) => route.filter('seat', event.currentTarget.value)}
		>
			{#each seats as name (name)}<option>{name}</option>{/each}
		</select>
	</label>
</div>
<Ask of={placement}>
	{#snippet children(found)}
		<div class="grid grid-cols-1 gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_25rem]">
			<div>
				<PlacementBoard
					{found}
					on={standing(found.stores)}
					onplace={(store, volume) => (chosen = { seat, on: { ...standing(found.stores), [store]: volume } })}
				/>
				<p class="mt-3 flex flex-wrap gap-3">
					<button class="may" onclick={() => (chosen = undefined)}>Use best placement</button>
					<button class="may" onclick={() => (chosen = { seat, on: places(found.stores, 'now') })}
						>Show current placement</button
					>
				</p>
			</div>
			<div class="grid content-start gap-5">
				<section aria-label="Problems now">
					<h2 class="mb-1 border-b border-hair pb-1 text-lg">Problems now</h2>
					{#each found.amiss_now as sentence, place (place)}
						<p class="first-letter:uppercase">{purposeWords(sentence)}.</p>
					{:else}
						<p class="quiet">None</p>
					{/each}
				</section>
				<section aria-label="Rules" aria-live="polite">
					{@render answer(arrangement && arranged.data ? arranged.data : found)}
				</section>
			</div>
		</div>
		<PlacedStores {found} />
	{/snippet}
</Ask>

{#snippet answer(said: Schemas['PlacementOut'])}
	{#if said.moves.length && !said.impossible}
		<StoreMoves moves={said.moves} volumes={said.volumes} />
	{/if}
	<h2 class="mt-4 mb-1 border-b border-hair pb-1 text-lg">After the moves</h2>
	{#if said.unmet.length}
		<p class="text-sienna" data-unmet>
			No volume of {seat} meets the house standard for {said.unmet.map(purposeWords).join(', ')}.
		</p>
	{/if}
	{#if said.impossible}
		<p class="text-sienna" data-impossible>{purposeWords(said.impossible)}.</p>
		{#if said.disk}<p>Needed: a disk of at least {storage(said.disk)}, SSD or better.</p>{/if}
	{:else}
		{#if said.amiss_then.length || !said.unmet.length}
			<p data-amiss>
				{said.amiss_then.length
					? `Remaining problems: ${said.amiss_then.map(purposeWords).join('; ')}.`
					: 'No remaining problems.'}
			</p>
		{/if}
		{#if !said.moves.length}<p>No moves needed.</p>{/if}
	{/if}
	{#if session.may('correct')}
		<p class="mt-3 flex flex-wrap gap-3">{@render planned(said)} {@render hands(said.errand)}</p>
	{/if}
	<Refused {acts} />
{/snippet}

{#snippet planned({ findings, moves }: Schemas['PlacementOut'])}
	{#if findings.length}
		<button class="do" onclick={() => correction.plan(findings)}>
			{findings.length < moves.length
				? `Plan the ${findings.length} moves that the standard requires`
				: 'Plan these moves'}
		</button>
	{/if}
{/snippet}

{#snippet hands(errand: Schemas['HandsOut'] | null)}
	{#if errand}
		<button class="may" disabled={acts.busy} onclick={() => carry(errand)}>Create errand</button>
	{/if}
{/snippet}
