<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask, read } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import MiniFloor from '../../parts/floor/MiniFloor.svelte';
	import Proposals from '../../parts/rollout/Proposals.svelte';
	import { moment } from '../../model/words/moment';
	import { tonight } from '../../model/rollout/tonight';
	import RoundItem from '../../parts/round/RoundItem.svelte';
	import Refused from '../../parts/ui/Refused.svelte';
	import { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { waiving, type Place } from '../../state/waiving.svelte';

	const round = createQuery(ask.round);
	const floor = createQuery(ask.floor);
	const acts = new Acts();
	let opened = $state('');
	let pointed = $state<{ title?: string; seats: string[] }>();

	type Item = Schemas['RoundItemOut'];
	const items = $derived(round.data?.items ?? []);
	const open = $derived(items.find((item) => item.title === opened));
	const shown = $derived<Item | { title?: string; seats: string[] } | undefined>(pointed ?? open);
	const more = $derived(
		items.find((item) => item.title === shown?.title && item.seat_count > item.seats.length)
	);
	const whole = createQuery(() => ask.ofRound(more?.title ?? ''));
	const spoken = $derived(new Set((more && whole.data?.seats) || shown?.seats || []));

	/** Every setting of the item on every seat of it: what a waiver speaks of. */
	const placesOf = (item: Item, seats: string[]): Place[] =>
		item.settings.flatMap((setting) => seats.map((seat) => ({ ...setting, seat })));
	const waive = (item: Item): Promise<boolean> =>
		acts.do(async () => waiving.begin(placesOf(item, (await read.ofRound(item.title)).seats)));
	const correct = (item: Item): Promise<boolean> =>
		acts.do(async () => correction.plan((await read.ofRound(item.title)).ids));
	const planAll = (): Promise<boolean> =>
		acts.do(async () => correction.plan((await read.ofRound('')).ids, tonight(new Date())));
</script>

<svelte:head><title>Round · Normant</title></svelte:head>
<Ask of={round}>
	{#snippet children(found)}
		<div class="grid gap-10 lg:grid-cols-[minmax(0,1fr)_19rem]">
			<div>
				<h1 class="mb-4 max-w-[34em] text-[1.7rem] leading-tight">{found.sentence}</h1>
				<Proposals />
				{#if session.may('correct') && items.some((item) => item.count)}
					<p class="mb-4"><button class="may" onclick={planAll}>Plan all corrections for tonight</button></p>
				{/if}
				<Refused {acts} class="mb-4" />
				<ul>
					{#each found.items as item (item.title)}
						<RoundItem
							{item}
							open={opened === item.title}
							correcting={session.may('correct')}
							onopen={() => (opened = opened === item.title ? '' : item.title)}
							onpoint={(here) => (pointed = here ? item : undefined)}
							onwaive={session.may('waive') ? () => waive(item) : undefined}
							oncorrect={() => correct(item)}
						/>
					{:else}
						<li class="quiet border-t border-hair py-6">Every known setting is in norm.</li>
					{/each}
				</ul>
				{#if found.overnight.length}
					<section class="mt-8" aria-label="Changes">
						<h2 class="text-base">Since {moment(found.since)}</h2>
						<ul>
							{#each found.overnight as step (step.title)}
								<li class="border-t border-hair py-1.5" data-how={step.how}>
									<button
										class="text-left hover:underline"
										onclick={() => (pointed = step)}
										onfocus={() => (pointed = step)}
										onblur={() => (pointed = undefined)}
										onmouseenter={() => (pointed = step)}
										onmouseleave={() => (pointed = undefined)}>{step.title}</button
									>
								</li>
							{/each}
						</ul>
					</section>
				{/if}
			</div>
			<aside class="hidden lg:sticky lg:top-4 lg:block lg:self-start" aria-label="Where">
				<MiniFloor plan={floor.data?.items ?? []} {spoken} />
			</aside>
		</div>
	{/snippet}
</Ask>
