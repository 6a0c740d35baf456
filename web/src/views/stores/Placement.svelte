<!-- Where the stores of a seat would lie best, what that mends, and the moves in their order. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { heardOf } from '../../model/house/rooms';
	import { purposeWords } from '../../model/stores/bars';
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

	type Places = Record<string, string>;
	type Stores = Schemas['StorePlaceOut'][];

	const floor = createQuery(ask.floor);
	const seats = $derived(heardOf(floor.data?.items ?? []).map(({ name }) => name));
	const seat = $derived(route.query.get('seat') ?? seats[0] ?? '');
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
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · placement</p>
<h1 class="mb-3 text-2xl">Where the stores of {seat} lie best</h1>
<label class="mb-5 grid w-fit gap-1">
	Seat
	<select
		class="field w-40"
		value={seat}
		onchange={(event) => route.filter('seat', event.currentTarget.value)}
	>
		{#each seats as name (name)}<option>{name}</option>{/each}
	</select>
</label>
<Ask of={placement}>
	{#snippet children(found)}
		<PlacedStores {found} />
		<div class="mt-6 mb-2 flex flex-wrap items-baseline gap-3">
			<h2 class="flex-1 text-lg">On its volumes</h2>
			<button class="may" onclick={() => (chosen = undefined)}>Put them where they lie best</button>
			<button class="may" onclick={() => (chosen = { seat, on: places(found.stores, 'now') })}
				>As they lie now</button
			>
		</div>
		<PlacementBoard
			{found}
			on={standing(found.stores)}
			onplace={(store, volume) => (chosen = { seat, on: { ...standing(found.stores), [store]: volume } })}
		/>
		<section class="mt-4" aria-label="What the rules say" aria-live="polite">
			{@render answer(arrangement && arranged.data ? arranged.data : found)}
		</section>
	{/snippet}
</Ask>

{#snippet answer(said: Schemas['PlacementOut'])}
	{#if said.unmet.length}
		<p class="text-sienna" data-unmet>
			No volume of {seat} is as the house standard wants it for {said.unmet.map(purposeWords).join(', ')}.
		</p>
	{/if}
	{#if said.impossible}
		<p class="text-sienna" data-impossible>{purposeWords(said.impossible)}.</p>
		{#if said.disk}<p>A disk of at least {storage(said.disk)}, ssd or better, would be enough.</p>{/if}
	{:else}
		<p data-amiss>
			{said.amiss_then.length
				? `Amiss then: ${said.amiss_then.map(purposeWords).join('; ')}.`
				: 'Nothing is amiss then.'}
		</p>
		{#if said.moves.length}
			<StoreMoves moves={said.moves} volumes={said.volumes} />
		{:else}
			<p>Nothing moves.</p>
		{/if}
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
				? `Plan the ${findings.length} of these that the standard wants`
				: 'Plan these moves'}
		</button>
	{/if}
{/snippet}

{#snippet hands(errand: Schemas['HandsOut'] | null)}
	{#if errand}
		<button class="may" disabled={acts.busy} onclick={() => carry(errand)}>Write an errand for it</button>
	{/if}
{/snippet}
