<!-- What the standing care of a text would decide of, before it is published; its seats may look at once. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { careImpactWords } from '../../model/stores/clearing';
	import { Acts } from '../../state/acts.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { text: string };
	let { text }: Props = $props();

	const impact = createQuery(() => ({ ...ask.careImpact(text), placeholderData: keepPreviousData }));
	const rows = $derived((text && impact.data?.items) || []);
	const acts = new Acts('clearing');

	const look = (name: string): Promise<boolean> =>
		acts.do(async () => route.go(`/stores/clearings/${(await write.lookForCare(text, name)).id}`));
</script>

{#if rows.length}
	<details class="mt-3" open data-care-impact>
		<summary>Automatic clean-up: {rows.length === 1 ? '1 sentence' : `${rows.length} sentences`}</summary>
		<ul>
			{#each rows as row (row.name)}
				{@render decided(row)}
			{/each}
		</ul>
		<Refused {acts} />
	</details>
{/if}

{#snippet decided(row: Schemas['CareImpactOut'])}
	<li class="border-t border-hair py-1">
		<span class="font-semibold">{row.name}</span>
		{careImpactWords(row)}
		{#if session.may('correct') && row.seats}
			<button class="anchor underline" disabled={acts.busy} onclick={() => look(row.name)}
				>List files now</button
			>
		{/if}
	</li>
{/snippet}
