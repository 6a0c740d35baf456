<!-- A seat for the person who sits there: what is planned, why and when; put it off, object, ask for a waiver. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import { moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import Standing from '../../parts/seat/Standing.svelte';
	import ProjectLists from '../../parts/stores/projects/ProjectLists.svelte';
	import Planned from '../../parts/rollout/Planned.svelte';

	type Props = { seat: string };
	let { seat }: Props = $props();

	const mine = createQuery(() => ask.mine(seat));
	const STATES = { settled: 'done', stopped: 'stopped', halted: 'not done' };
</script>

<svelte:head><title>{seat} · Normant</title></svelte:head>
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_22rem]">
	<div class="max-w-3xl">
		<h1 class="text-2xl">{seat}</h1>
		<Ask of={mine}>
			{#snippet children(found)}
				<p class="word mt-1" role="status" data-sentence>{found.sentence}</p>
				{#each found.asked as question (question.since)}
					<section class="mt-5 border-t border-rule pt-4" data-asked={question.app ?? ''}>
						<h2 class="text-lg">
							{question.app ? `Please close ${nameOf(question.app)}` : 'Please restart this machine'}
						</h2>
						<p>{question.why}</p>
						<p class="quiet">
							Save your work first, and do it when convenient. Requested {moment(question.since)}.
						</p>
					</section>
				{/each}
				{#each found.planned as planned (planned.rollout)}<Planned {seat} {planned} />{/each}
				<ProjectLists {seat} />
				{#if found.errands.length}
					<h2 class="mt-7 mb-1 text-lg">Planned visit</h2>
					<ul>
						{#each found.errands as errand (errand.id)}
							<li class="border-t border-hair py-2" data-coming={errand.id}>
								<p class="font-semibold">{errand.does}</p>
								<p class="quiet">{errand.because} Takes about {errand.minutes} minutes at your seat.</p>
							</li>
						{/each}
					</ul>
				{/if}
				{#if found.done.length}
					<h2 class="mt-7 mb-1 text-lg">Recent changes</h2>
					<ul>
						{#each found.done as done (done.rollout)}
							<li class="border-t border-hair py-2" data-done={done.rollout}>
								{@render doneHere(done)}
							</li>
						{/each}
					</ul>
				{/if}
				<p class="quiet mt-7">
					<a class="anchor underline" href="/seats/{seat}">Full record of this seat</a>: every setting, the
					house standard and the reasons.
				</p>
			{/snippet}
		</Ask>
	</div>
	<aside aria-label="Status"><Standing {seat} /></aside>
</div>

{#snippet doneHere(done: Schemas['DoneOut'])}
	<p>
		<span class="font-semibold">{done.title}</span>
		<span class="quiet">{STATES[done.state]} {moment(done.ended_at)}, by {done.by}</span>
	</p>
	<p class="quiet">{done.changes.join('; ')}</p>
	{#if done.message}<p class="quiet">{done.message}</p>{/if}
{/snippet}
