<!-- Having a seat look into its finished exports, frame by frame, and what it found. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import { Acts } from '../../../state/acts.svelte';
	import { session } from '../../../state/shell/session.svelte';
	import Inspection from './Inspection.svelte';
	import LookIntoExport from './LookIntoExport.svelte';
	import Ask from '../../ui/Ask.svelte';
	import Refused from '../../ui/Refused.svelte';

	type Props = { seat: string };
	let { seat }: Props = $props();

	let file = $state('');
	const acts = new Acts('seat');
	const exports = createQuery(() => ask.exports(seat));
	const look = (app: string, specification: string): Promise<boolean> =>
		acts.do(() => write.inspectExport(seat, { app, file, specification }));
</script>

<h3 class="title mt-5">Export inspection</h3>
<Ask of={exports}>
	{#snippet children(found)}
		{#if !found.apps.length}
			<p class="quiet mt-1">
				No application on this seat has an export folder in its dialect. On any machine, run:
				<span class="value">normant inspect FILE</span>.
			</p>
		{:else if session.may('correct')}
			<LookIntoExport apps={found.apps} bind:file onlook={look} />
			<Refused {acts} class="mt-2" />
		{/if}
		<ul class="mt-3">
			{#each found.inspections as inspection (inspection.order)}
				<Inspection {inspection} onpick={(other) => (file = other)} />
			{/each}
		</ul>
	{/snippet}
</Ask>
