<!-- Productions: those that seats are booked on, and those that have ended. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import { moment } from '../../../model/words/moment';
	import type { Acts } from '../../../state/acts.svelte';
	import Ask from '../../ui/Ask.svelte';

	type Props = { acts: Acts; may: boolean };
	let { acts, may }: Props = $props();

	const productions = createQuery(ask.productions);
	let name = $state('');
	const seats = (count: number): string => (count === 1 ? '1 seat' : `${count} seats`);

	async function close(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.do(() => write.closeProduction(name))) name = '';
	}
</script>

<section aria-label="Productions">
	<h2 class="mb-1 text-lg">Productions</h2>
	<Ask of={productions}>
		{#snippet children(list)}
			<ul>
				{#each list.items as row (row.name)}
					<li class="flex flex-wrap items-baseline gap-x-3 border-t border-hair py-1">
						<span class="flex-1 font-semibold">{row.name}</span>
						<span class="quiet"
							>{row.ended_at ? `ended ${moment(row.ended_at)}` : `live on ${seats(row.seats)}`}</span
						>
						{#if row.id && may}
							<button
								class="anchor underline"
								disabled={acts.busy}
								onclick={() => acts.do(() => write.reopenProduction(row.id ?? 0))}>Reopen {row.name}</button
							>
						{/if}
					</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	{#if may}
		<form class="mt-4 grid gap-2" onsubmit={close}>
			<label class="grid gap-1">
				Production name
				<span class="quiet">Files start to age from now.</span>
				<input class="field" bind:value={name} required maxlength="120" />
			</label>
			<button class="may justify-self-start" disabled={acts.busy}>Mark production as ended</button>
		</form>
	{/if}
</section>
