<!-- An errand: what is to be done, with what in hand, step by step; sign it off, or drop it. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { errand: Schemas['ErrandOut'] };
	let { errand }: Props = $props();

	let words = $state('');
	const acts = new Acts('errand');

	const waits = $derived(errand.state === 'open' || errand.state === 'signed');

	async function act(what: () => Promise<unknown>): Promise<void> {
		if (await acts.do(what)) words = '';
	}

	function signOff(event: SubmitEvent): void {
		event.preventDefault();
		void act(() => write.signOff(errand.id, words));
	}

	const drop = () => act(() => write.dropErrand(errand.id, words));
</script>

<div class="max-w-2xl" data-errand={errand.id}>
	{#if errand.because}<p>{errand.because}</p>{/if}
	{#if errand.note}<p class="mt-1">{errand.note}</p>{/if}
	{#if errand.bring.length}
		<h4 class="quiet mt-2">Bring</h4>
		<ul class="bring">
			{#each errand.bring as thing (thing)}<li>{thing}</li>{/each}
		</ul>
	{/if}
	<h4 class="quiet mt-2">Steps</h4>
	<ol class="steps">
		{#each errand.steps as step, index (index)}<li>{step}</li>{/each}
	</ol>
	{#if errand.message}<p class="mt-2 text-sienna" data-message>{errand.message}.</p>{/if}
	{#if errand.signed_by && errand.signed_at}
		<p class="mt-2">
			Signed off by {errand.signed_by}, {moment(errand.signed_at)}{errand.words ? `: ${errand.words}` : ''}.
		</p>
	{/if}
	{#if waits}
		<p class="quiet mt-2">
			{errand.state === 'signed' ? 'Waiting for the next survey of this seat to confirm it.' : errand.proves}
		</p>
		{#if errand.state === 'open' && session.may('run errands')}
			{@render signing()}
		{/if}
	{/if}
	<p class="quiet mt-3 flex flex-wrap gap-x-4">
		<span>from {errand.made_by}, {moment(errand.made_at)}</span>
		{#if errand.rollout}<a class="anchor underline" href="/rollouts/{errand.rollout}"
				>rollout {errand.rollout}</a
			>{/if}
		<a class="anchor underline" href="/seats/{errand.seat}">Seat record</a>
		{#if waits}
			<a
				class="anchor underline"
				href="/api/v1/errands/sheet?errand={errand.id}"
				target="_blank"
				rel="noreferrer">Printable sheet</a
			>
		{/if}
	</p>
	<Refused {acts} class="mt-2" />
</div>

{#snippet signing()}
	<form class="mt-3 grid gap-2" onsubmit={signOff}>
		<label class="grid gap-1">
			<span class="quiet">Result{session.may('correct') ? ', or reason for dropping' : ''}</span>
			<input class="field" maxlength="500" bind:value={words} />
		</label>
		<p class="flex flex-wrap gap-2">
			<button class="do">Mark as done</button>
			{#if session.may('correct')}
				<button type="button" class="may" disabled={!words.trim()} onclick={drop}>Drop errand</button>
			{/if}
		</p>
	</form>
{/snippet}

<style>
	.steps {
		list-style: decimal;
		padding-left: 1.5rem;
	}
	.steps li {
		padding-block: 0.2rem;
	}
	.bring {
		list-style: '– ';
		padding-left: 1rem;
	}
</style>
