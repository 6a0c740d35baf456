<!-- What was accepted, where, why, and until when; what has ended stays to be read. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { day, dayAhead, moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import DriftTabs from '../../parts/drift/DriftTabs.svelte';
	import Level from '../../parts/level/Level.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	const LONGEST_DAYS = 366;
	const A_WEEK = 7;
	type Waiver = Schemas['WaiverOut'];
	const waivers = createQuery(ask.waivers);
	const calendar = createQuery(ask.calendar);
	const acts = new Acts('waiver');
	let ending = $state('');

	const holding = $derived((waivers.data?.items ?? []).filter((waiver) => !waiver.ended_at));
	const ended = $derived((waivers.data?.items ?? []).filter((waiver) => waiver.ended_at));
	const productions = $derived(
		[...new Set(holding.map((waiver) => waiver.until_production).filter(Boolean))].sort()
	);
	const acting = $derived(session.may('waive'));

	async function act(what: () => Promise<unknown>): Promise<void> {
		if (await acts.do(what)) ending = '';
	}

	const end = (number: number): Promise<void> => act(() => write.endWaiver(number));
	function prolong(event: SubmitEvent, waiver: Waiver): void {
		event.preventDefault();
		const last = new FormData(event.target as HTMLFormElement).get('last') as string;
		const body = { ends_at: new Date(`${last}T23:59:00`).toISOString(), seen: waiver.ends_at };
		void act(() => write.prolongWaiver(waiver.id, body));
	}
	const endProduction = (production: string): Promise<void> => act(() => write.endProduction(production));

	function until(waiver: Waiver): string {
		if (waiver.ended_at) return `ended ${moment(waiver.ended_at)}${BY[waiver.ended_by] ?? ''}`;
		return waiver.ends_at ? `ends ${day(waiver.ends_at)}` : `ends with ${waiver.until_production}`;
	}
	const BY: Record<string, string> = {
		date: ', on its date',
		production: ', with its production',
		person: ', by hand'
	};
</script>

<svelte:head><title>Waivers · Normant</title></svelte:head>
<Ask of={waivers}>
	<DriftTabs says={holding.length === 1 ? 'One waiver holds.' : `${holding.length || 'No'} waivers hold.`} />
	{#if calendar.data}
		<p class="quiet mb-2">
			<a class="anchor underline" href={calendar.data.address} download>A calendar</a> shows when they end; its
			address is a key: keep it to yourself.
		</p>
	{/if}
	{#if !holding.length}
		<p class="word mb-3">
			Select what is off norm on a seat, on the round or in the grid, and press <kbd>w</kbd>.
		</p>
	{/if}
	<Refused {acts} class="mb-3" />
	{#each productions as production (production)}
		<p class="mb-2">
			Some wait for the end of {production}.
			{#if acting}
				{@render over(production)}
			{/if}
		</p>
	{/each}
	<ul>
		{#each [...holding, ...ended] as waiver (waiver.id)}
			<li class="waiver" class:over={waiver.ended_at} data-waiver={waiver.id}>
				<span class="w-20"
					><Level status={waiver.ended_at ? 'no-norm' : 'waived'} words={until(waiver)} /></span
				>
				<div class="min-w-0">
					<p class="font-semibold">
						{waiver.title}{waiver.app ? ` of ${nameOf(waiver.app)}` : ''}, {waiver.scope}
					</p>
					<p>{waiver.reason}</p>
					<p class="quiet">
						{waiver.made_by ?? 'the server'}, {moment(waiver.made_at)}{waiver.ended_at
							? ''
							: `; covers ${waiver.covers} ${waiver.covers === 1 ? 'finding' : 'findings'} now`}
					</p>
				</div>
				<span class="whitespace-nowrap" class:text-sienna={waiver.ends_soon}>{until(waiver)}</span>
				<span class="flex justify-end gap-2">
					{#if acting && !waiver.ended_at}
						<form class="flex gap-2" onsubmit={(event) => prolong(event, waiver)}>
							<input
								name="last"
								type="date"
								class="field w-auto py-1"
								min={dayAhead(1)}
								max={dayAhead(LONGEST_DAYS - 1)}
								value={dayAhead(A_WEEK, Math.max(Date.now(), Date.parse(waiver.ends_at ?? '') || 0))}
								aria-label="Another last day"
							/>
							<button class="may">Prolong it</button>
						</form>
						<button class="may" onclick={() => end(waiver.id)}>End it now</button>
					{/if}
				</span>
			</li>
		{/each}
	</ul>
</Ask>

{#snippet over(production: string)}
	{#if ending === production}
		<button class="do ml-2" onclick={() => endProduction(production)}>It has ended</button>
		<button class="may ml-1" onclick={() => (ending = '')}>Not yet</button>
	{:else}
		<button class="may ml-2" onclick={() => (ending = production)}>{production} is over…</button>
	{/if}
{/snippet}

<style>
	.waiver {
		display: grid;
		grid-template-columns: 5.5rem minmax(14rem, 1fr) 13rem auto;
		gap: 0.3rem 1.2rem;
		align-items: center;
		border-top: 1px solid var(--hair);
		padding-block: 0.7rem;
	}
	.over {
		color: var(--muted);
	}
	@media (max-width: 900px) {
		.waiver {
			grid-template-columns: 5.5rem 1fr;
		}
	}
</style>
