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
	<DriftTabs says={holding.length === 1 ? '1 active waiver' : `${holding.length || 'No'} active waivers`} />
	{#if calendar.data}
		<p class="quiet mb-2">
			<a class="anchor underline" href={calendar.data.address} download>Calendar</a> of end dates. Anyone with its
			address can read it: do not share the address.
		</p>
	{/if}
	{#if !holding.length}
		<p class="word mb-3">
			To add a waiver, select settings off norm on a seat, the Round or Drift, and press <kbd>w</kbd>.
		</p>
	{/if}
	<Refused {acts} class="mb-3" />
	{#each productions as production (production)}
		<p class="mb-2">
			Some end with {production}.
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
		<button class="do ml-2" onclick={() => endProduction(production)}>Mark production as ended</button>
		<button class="may ml-1" onclick={() => (ending = '')}>Cancel</button>
	{:else}
		<button class="may ml-2" onclick={() => (ending = production)}>{production} has ended…</button>
	{/if}
{/snippet}
