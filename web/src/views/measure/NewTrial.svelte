<!-- A question is put together: what is set, where, by which job; beside it what that would take. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { untrack } from 'svelte';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { KINDS } from '../../model/measure/words';
	import { Acts } from '../../state/acts.svelte';
	import { NewTrial } from '../../state/newTrial.svelte';
	import { route } from '../../state/shell/route.svelte';
	import AskedBy from '../../parts/measure/asking/AskedBy.svelte';
	import AskedOn from '../../parts/measure/asking/AskedOn.svelte';
	import Conditions from '../../parts/measure/asking/Conditions.svelte';
	import LookAtTrial from '../../parts/measure/asking/LookAtTrial.svelte';

	const trial = new NewTrial();
	trial.read(route.query);
	const triable = createQuery(() => ({
		...ask.triable(trial.seats),
		placeholderData: keepPreviousData
	}));
	const look = createQuery(() => ({ ...ask.lookAtTrial(trial.body), placeholderData: keepPreviousData }));
	const acts = new Acts('trial');
	const rows = $derived(triable.data?.items ?? []);
	$effect(() => {
		if (triable.data) untrack(() => trial.fill(rows));
	});

	async function start(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const body = trial.body;
		if (!body) return;
		await acts.do(async () => {
			const { id } = await write.startTrial(body);
			route.go(id ? `/measure/trials/${id}` : '/');
		});
	}
</script>

<svelte:head><title>New trial · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/measure">Measure</a> · new trial</p>
<h1 class="mb-4 text-2xl">{KINDS.find(([kind]) => kind === trial.kind)?.[1]}</h1>
<form class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_21rem]" onsubmit={start}>
	<div class="grid content-start gap-6">
		<fieldset>
			<legend class="mb-1 font-semibold">Question</legend>
			<div class="grid gap-x-6 gap-y-1 md:grid-cols-2">
				{#each KINDS as [kind, question, meaning] (kind)}
					<label class="flex items-baseline gap-2">
						<input type="radio" name="kind" value={kind} bind:group={trial.kind} />
						<span>{question} <span class="quiet block">{meaning}</span></span>
					</label>
				{/each}
			</div>
		</fieldset>
		<AskedOn {trial} />
		<Conditions {trial} {rows} />
		<AskedBy {trial} {rows} />
	</div>
	<LookAtTrial {trial} {look} {acts} />
</form>
