<!-- One rollout that is going to change a seat, and what the person there may answer. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { queryClient } from '../../api/queries';
	import { delays } from '../../model/rollout/delays';
	import { moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import PlanOfSeat from '../plan/PlanOfSeat.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { seat: string; planned: Schemas['PlannedOut'] };
	let { seat, planned }: Props = $props();

	let asking = $state<'' | 'objection' | 'waiver'>('');
	let why = $state('');
	const acts = new Acts();

	const answers = $derived(session.may('answer for a seat') && planned.state === 'waiting');
	const apps = $derived(planned.closes.map(nameOf).join(' and '));

	const act = (what: () => Promise<Schemas['MineOut']>): Promise<boolean> =>
		acts.do(async () => {
			queryClient.setQueryData(['rollout', 'mine', seat], await what());
			[asking, why] = ['', ''];
		});

	const putOff = (until: string) => act(() => write.putOff(planned.rollout, seat, until));

	function object(event: SubmitEvent): void {
		event.preventDefault();
		void act(() => write.objectTo(planned.rollout, seat, { why, asks_waiver: asking === 'waiver' }));
	}
</script>

<section class="mt-5 border-t border-rule pt-4" data-planned={planned.rollout}>
	<h2 class="text-lg">{planned.title}</h2>
	<p class="quiet">planned by {planned.by}</p>
	{#if planned.message}<p class="mt-2" data-when>{planned.message}.</p>{/if}
	{#if apps && planned.state === 'waiting' && !planned.objection}
		<p class="mt-2">
			{#if planned.begun}
				Save your work and close {apps} when convenient. The change takes less than a minute.
			{:else}
				{apps} will have to be closed for less than a minute. Nothing starts while you are working in it.
			{/if}
		</p>
	{/if}
	{#if planned.reasons.length}
		<ul class="mt-3">
			{#each planned.reasons as reason (reason.title + (reason.app ?? ''))}
				<li class="py-0.5">
					<span class="font-semibold">{reason.title}{reason.app ? `, ${nameOf(reason.app)}` : ''}.</span>
					{reason.because}
				</li>
			{/each}
		</ul>
	{/if}
	<details class="mt-3">
		<summary class="anchor">Changes in the files</summary>
		<PlanOfSeat seat={planned.plan} headed={false} />
	</details>
	{#if answers}
		{@render puttingOff()}
		{#if !planned.objection}
			<div class="mt-3 flex flex-wrap items-center gap-2">
				<span>Ask the supervisor:</span>
				<button class="may" onclick={() => (asking = 'objection')}>Object</button>
				<button class="may" onclick={() => (asking = 'waiver')}>Ask for a waiver</button>
			</div>
		{/if}
	{/if}
	{#if asking}
		<form class="mt-3 flex flex-col gap-2" onsubmit={object}>
			<label class="flex flex-col gap-1">
				<span
					>{asking === 'waiver'
						? 'Why should the setting stay, and for how long?'
						: 'What is the problem?'}</span
				>
				<textarea class="field" rows="3" maxlength="500" required bind:value={why}></textarea>
			</label>
			<p class="flex gap-2">
				<button class="do" disabled={!why.trim()}>Send to the supervisor</button>
				<button type="button" class="may" onclick={() => (asking = '')}>Cancel</button>
			</p>
		</form>
	{/if}
	<Refused {acts} class="mt-2" />
</section>

{#snippet puttingOff()}
	{#if planned.may_put_off}
		<div class="mt-4 flex flex-wrap items-center gap-2">
			<span>Postpone</span>
			{#each delays(new Date(), new Date(planned.latest)) as delay (delay.name)}
				<button class="may" onclick={() => putOff(delay.until)}>{delay.name}</button>
			{/each}
		</div>
		<p class="quiet mt-1">Until {moment(planned.latest)} at the latest.</p>
	{/if}
{/snippet}
