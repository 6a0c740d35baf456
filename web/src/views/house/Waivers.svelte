<!-- What was accepted, where, why, and until when; what has ended stays to be read. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import DriftTabs from '../../parts/drift/DriftTabs.svelte';
	import WaiverLine from '../../parts/drift/WaiverLine.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

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

	const endProduction = (production: string): Promise<void> => act(() => write.endProduction(production));
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
			<WaiverLine {waiver} {acts} />
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
