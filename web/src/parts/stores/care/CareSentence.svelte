<!-- A sentence of standing care in force: what it says, who agreed to it, what its last turns came to. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import { agreedWords, turnWords, type StandingCare } from '../../../model/stores/clearing';
	import { moment } from '../../../model/words/moment';
	import { storage } from '../../../model/words/sizes';
	import { Acts } from '../../../state/acts.svelte';
	import { session } from '../../../state/shell/session.svelte';
	import Refused from '../../ui/Refused.svelte';

	type Props = { care: StandingCare };
	let { care }: Props = $props();

	const acts = new Acts('care');
	let stopping = $state(false);
	let why = $state('');

	/** What it made free of what it promised; of one that nobody signed yet, what it would. */
	function sizes({ state, cleared, promised }: StandingCare['turns'][number]): string {
		if (!promised || state === 'dropped') return '';
		return state === 'planned' ? storage(promised) : `${storage(cleared)} of ${storage(promised)}`;
	}

	async function stop(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.do(() => write.stopCare(care.name, why))) stopping = false;
	}
</script>

<article class="mb-5 border-t border-rule pt-3" data-care={care.name} data-state={care.state}>
	<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
		<h2 class="text-lg">{care.name}</h2>
		<span class="quiet flex-1">{care.layer}, {care.applies}</span>
		{#if session.may('correct')}
			{#if care.state === 'stopped'}
				<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.resumeCare(care.name))}
					>Resume</button
				>
			{:else}
				<button class="may" aria-expanded={stopping} onclick={() => (stopping = !stopping)}>Stop…</button>
			{/if}
		{/if}
	</div>
	<p class="max-w-[60rem]">{care.sentence}.</p>
	{#if care.because}<p class="quiet">{care.because}</p>{/if}
	<p class="mt-1" class:text-sienna={care.state === 'waits' || care.state === 'stopped'} data-agreed>
		{agreedWords(care)}
	</p>
	{#if stopping}
		<form class="my-2 flex flex-wrap gap-2" onsubmit={stop}>
			<input
				class="field w-80"
				required
				maxlength="300"
				placeholder="reason"
				aria-label="Reason"
				bind:value={why}
			/>
			<button class="do" disabled={acts.busy}>Stop {care.name}</button>
		</form>
	{/if}
	<Refused {acts} />
	{#if care.turns.length}
		<table class="mt-2 w-full max-w-[60rem]">
			<caption class="sr-only">Last runs</caption>
			<tbody>
				{#each care.turns as turn (turn.opens)}
					{@render lastTurn(turn)}
				{/each}
			</tbody>
		</table>
	{/if}
</article>

{#snippet lastTurn(turn: StandingCare['turns'][number])}
	<tr class="border-t border-hair">
		<td class="w-44 py-1">{moment(turn.opens)}</td>
		<td>{turnWords(turn)}</td>
		<td class="value w-44 text-right">{sizes(turn)}</td>
		<td class="w-28 text-right"
			>{#if turn.clearing}<a class="anchor underline" href="/stores/clearings/{turn.clearing}"
					>{turn.state === 'planned' ? 'Read and sign' : 'Open plan'}</a
				>{/if}</td
		>
	</tr>
{/snippet}
