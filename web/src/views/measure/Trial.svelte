<!-- One trial: what it shows, every run, and what the machine did during the one that is chosen. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { JOBS } from '../../model/measure/words';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import ChosenRun from '../../parts/measure/ChosenRun.svelte';
	import Intervals from '../../parts/measure/Intervals.svelte';
	import RunsPlot from '../../parts/measure/RunsPlot.svelte';
	import SpokenOf from '../../parts/measure/SpokenOf.svelte';
	import TrialActions from '../../parts/measure/TrialActions.svelte';
	import TrialSeats from '../../parts/measure/TrialSeats.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';
	import TableLinks from '../../parts/ui/TableLinks.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const trial = createQuery(() => ask.trial(number));
	let chosen = $state(0);
	const acts = new Acts('trial');
	const evidence = createQuery(ask.evidence);
	const spoken = $derived((evidence.data?.items ?? []).filter((row) => row.trial === number));

	async function draft(attach: boolean): Promise<void> {
		await acts.do(async () => {
			const made = await write.draftOfTrial(number, attach);
			route.go(`/standard?draft=${made.draft}`);
		});
	}
	const names = $derived(
		trial.data?.kind === 'screening'
			? [...new Set(trial.data.runs.map(({ condition }) => condition))].sort()
			: (trial.data?.conditions ?? []).map(({ name }) => name)
	);
	const job = $derived(JOBS.find(([name]) => name === trial.data?.job)?.[1] ?? '');
	const made = $derived(trial.data?.runs.some(({ figure }) => figure !== null));
	const about = $derived(trial.data?.runs.find(({ id }) => id === chosen));
</script>

<svelte:head><title>Trial {number} · Normant</title></svelte:head>
<Ask of={trial}>
	{#snippet children(found)}
		<p class="quiet">
			<a class="anchor underline" href="/measure">Measure</a> · trial {found.id}, {found.state} · {job}{found.clip
				? `, ${found.clip}`
				: ''}{found.beside ? `, competing job: ${found.beside.words}` : ''} · {found.created_by}, {moment(
				found.created_at
			)}
		</p>
		<div class="flex flex-wrap items-start gap-x-6 gap-y-2">
			<h1 class="flex-1 text-2xl">{found.title}</h1>
			{#if session.may('correct')}
				<TrialActions
					trial={found}
					{acts}
					onhalt={(why) => acts.do(() => write.haltTrial(number, why))}
					ondraft={session.may('publish') ? draft : undefined}
				/>
			{/if}
		</div>
		<p class="mt-1 max-w-[60rem] text-[1.1rem]" data-sentence>{found.sentence}</p>
		{#if found.because}<p class="quiet">Reason: {found.because}</p>{/if}
		{#if found.old}<p class="text-sienna">
				Out of date: {found.old}. Run again before you rely on it.
			</p>{/if}
		{#if found.by_hand && found.state === 'running' && session.may('run errands')}
			<p class="mt-2">
				Manual runs: {found.by_hand.what}. Run sheets for a phone at the seat:
				{#each found.seats as seat (seat)}
					<a class="anchor mr-3 underline" href="/measure/trials/{number}/sheet?seat={seat}">{seat}</a>
				{/each}
			</p>
		{/if}
		<SpokenOf {spoken} onattach={session.may('publish') ? () => draft(true) : undefined} />
		<Refused {acts} class="mt-2" />
		{#if found.comparisons.length}
			<h2 class="mt-5 mb-1 text-lg">Speed compared</h2>
			<Intervals
				what="Speed compared"
				matters={found.matters}
				ratios={found.comparisons.map((row) => ({ ...row, name: `${row.of} against ${row.against}` }))}
			/>
		{:else if found.effects.length}
			<h2 class="mt-5 mb-1 text-lg">Effect of each setting</h2>
			<Intervals
				what="Effect of each setting"
				matters={found.matters}
				ratios={found.effects.map((row) => ({ ...row, name: row.factor }))}
			/>
		{/if}
		{#if made}
			<h2 class="mt-6 mb-1 text-lg">Runs</h2>
			{#if found.kind === 'screening'}
				<p class="quiet mb-2">
					A plus marks a changed setting, in this order: {found.conditions
						.map(({ name }) => name)
						.join('; ')}.
				</p>
			{/if}
			<RunsPlot
				{names}
				runs={found.runs}
				means={found.means}
				job={found.job}
				{chosen}
				onchoose={(id) => (chosen = id)}
			/>
			{#if about}<ChosenRun trial={number} run={about} beside={found.beside} />{/if}
			<p class="mt-3"><TableLinks path="/api/v1/trials/{number}/runs" /></p>
		{/if}
		<TrialSeats trial={found} />
	{/snippet}
</Ask>
