<!-- What people have to do at seats, in the order in which one walks past them. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { MediaQuery } from 'svelte/reactivity';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import ErrandCard from '../../parts/errands/ErrandCard.svelte';
	import { byRoom } from '../../model/words/errands';
	import GiveErrand from '../../parts/errands/GiveErrand.svelte';
	import { moment } from '../../model/words/moment';
	import { session } from '../../state/shell/session.svelte';

	const errands = createQuery(ask.errands);
	let giving = $state(false);
	let opened = $state(0);
	// Where there is room, the errand stands beside the way; on a phone it opens within it.
	const wide = new MediaQuery('min-width: 1024px');
	const stops = $derived((errands.data?.stops ?? []).flatMap((stop) => stop.errands));
	const beside = $derived(
		wide.current ? (stops.find((errand) => errand.id === opened) ?? stops[0]) : undefined
	);

	const STATES = { held: 'held', open: '', signed: 'signed off', done: 'done', dropped: 'dropped' };
</script>

<svelte:head><title>Errands · Normant</title></svelte:head>
<Ask of={errands}>
	{#snippet children(found)}
		<div class="flex flex-wrap items-start gap-4">
			<div>
				<h1 class="text-2xl">Errands</h1>
				<p class="word mt-1" role="status" data-sentence>{found.sentence}</p>
			</div>
			<div class="ml-auto flex gap-2">
				{#if found.stops.length}
					<a class="may" href="/api/v1/errands/sheet" target="_blank" rel="noreferrer">Print list</a>
				{/if}
				{#if session.may('correct')}
					<button class="may" onclick={() => (giving = true)}>Create errand</button>
				{/if}
			</div>
		</div>
		<div class="mt-2 grid grid-cols-1 gap-x-12 lg:grid-cols-[minmax(0,1fr)_26rem]">
			<div>
				{#each byRoom(found.stops) as room (room.name)}
					<section class="mt-6" aria-labelledby="room-{room.name}">
						<h2 id="room-{room.name}" class="flex items-baseline gap-3 text-lg">
							{room.name || 'No room'}
							<a
								class="anchor text-sm underline"
								href="/api/v1/errands/sheet?room={encodeURIComponent(room.name)}"
								target="_blank"
								rel="noreferrer">print</a
							>
						</h2>
						<ul>
							{#each room.errands as errand (errand.id)}
								{@render stop(errand)}
							{/each}
						</ul>
					</section>
				{:else}
					<p class="quiet mt-6">
						Work that needs a person (firmware, disks, drivers, projects) is listed here when a rollout
						starts. To create an errand now, select <em>Create errand</em> on the
						<a class="anchor" href="/">Round</a>.
					</p>
				{/each}
				{#if found.ended.length}
					<section class="mt-8" aria-labelledby="ended">
						<h2 id="ended" class="text-lg">Recently ended</h2>
						<ul>
							{#each found.ended as errand (errand.id)}
								<li class="row border-t border-hair">
									<span class="value">{errand.seat}</span>
									<a class="text-ink" href="/errands/{errand.id}">{errand.does}</a>
									<span class="quiet"
										>{errand.message || STATES[errand.state]}{errand.ended_at
											? `, ${moment(errand.ended_at)}`
											: ''}</span
									>
								</li>
							{/each}
						</ul>
					</section>
				{/if}
			</div>
			{#if beside}
				<aside class="mt-6 lg:sticky lg:top-4 lg:self-start" aria-label="Errand">
					<h2 class="mb-1 text-lg">{beside.does}</h2>
					<p class="value mb-2">{beside.seat}</p>
					{#key beside.id}<ErrandCard errand={beside} />{/key}
				</aside>
			{/if}
		</div>
	{/snippet}
</Ask>
{#if giving}<GiveErrand onclose={() => (giving = false)} />{/if}

{#snippet stop(errand: Schemas['ErrandOut'])}
	<li class="border-t border-hair">
		<button
			class="row"
			aria-expanded={(beside?.id ?? opened) === errand.id}
			onclick={() => (opened = opened === errand.id && !beside ? 0 : errand.id)}
		>
			<span class="value">{errand.seat}</span>
			<span class="font-semibold">{errand.does}</span>
			<span class="quiet">{STATES[errand.state] || `about ${errand.minutes} min`}</span>
		</button>
		{#if opened === errand.id && !wide.current}
			<div class="pb-4 md:pl-[7.6rem]"><ErrandCard {errand} /></div>
		{/if}
	</li>
{/snippet}

<style>
	.row {
		display: grid;
		grid-template-columns: 6.8rem minmax(0, 1fr) minmax(6rem, auto);
		gap: 0.8rem;
		width: 100%;
		padding-block: 0.6rem;
		text-align: left;
		align-items: baseline;
	}
	@media (max-width: 640px) {
		.row {
			grid-template-columns: 5rem minmax(0, 1fr);
		}
		.row > :last-child {
			grid-column: 2;
		}
	}
</style>
