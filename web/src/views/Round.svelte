<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../api/client';
	import { ask } from '../api/queries';
	import Ask from '../parts/ui/Ask.svelte';
	import MiniFloor from '../parts/floor/MiniFloor.svelte';
	import Proposals from '../parts/rollout/Proposals.svelte';
	import { moment } from '../model/moment';
	import { tonight } from '../model/tonight';
	import RoundItem from '../parts/round/RoundItem.svelte';
	import { correction } from '../state/correction.svelte';
	import { session } from '../state/session.svelte';
	import { waiving, type Place } from '../state/waiving.svelte';

	const round = createQuery(ask.round);
	const floor = createQuery(ask.floor);
	let opened = $state('');
	let pointed = $state<string[]>([]);

	/** Every setting of the item on every seat of it: what a waiver speaks of. */
	const placesOf = (item: Schemas['RoundItemOut']): Place[] =>
		item.settings.flatMap((spoken) => item.seats.map((seat) => ({ ...spoken, seat })));
	const items = $derived(round.data?.items ?? []);
	const everything = $derived([...new Set(items.flatMap((item) => item.ids))]);
	const open = $derived(items.find((item) => item.title === opened));
	const spoken = $derived(new Set(pointed.length ? pointed : (open?.seats ?? [])));
</script>

<svelte:head><title>Round · Normant</title></svelte:head>
<Ask of={round}>
	{#snippet children(found)}
		<div class="grid gap-10 lg:grid-cols-[minmax(0,1fr)_19rem]">
			<div>
				<h1 class="mb-4 max-w-[34em] text-[1.7rem] leading-tight">{found.sentence}</h1>
				<Proposals />
				{#if session.may('correct') && everything.length}
					<p class="mb-4">
						<button class="may" onclick={() => correction.plan(everything, tonight(new Date()))}
							>Plan everything for tonight</button
						>
					</p>
				{/if}
				<ul>
					{#each found.items as item (item.title)}
						<RoundItem
							{item}
							open={opened === item.title}
							correcting={session.may('correct')}
							onopen={() => (opened = opened === item.title ? '' : item.title)}
							onpoint={(names) => (pointed = names)}
							onwaive={session.may('waive') ? () => waiving.begin(placesOf(item)) : undefined}
							oncorrect={() => correction.plan(item.ids)}
						/>
					{:else}
						<li class="quiet border-t border-hair py-6">Every reading that can be read is in norm.</li>
					{/each}
				</ul>
				{#if found.overnight.length}
					<section class="mt-8" aria-label="What changed">
						<h2 class="text-base">Since {moment(found.since)}</h2>
						<ul>
							{#each found.overnight as step (step.title)}
								<li class="border-t border-hair py-1.5" data-how={step.how}>
									<button
										class="text-left hover:underline"
										onclick={() => (pointed = [...step.seats])}
										onfocus={() => (pointed = [...step.seats])}
										onmouseenter={() => (pointed = [...step.seats])}
										onmouseleave={() => (pointed = [])}>{step.title}</button
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
