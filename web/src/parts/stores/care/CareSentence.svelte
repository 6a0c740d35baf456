<!-- An automatic clean-up: what it deletes and when, who approved it, and its last runs beside it. -->
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

	/** The bytes deleted of those promised; of a run without a signature, the bytes it would delete. */
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
	<div class="grid gap-x-12 gap-y-3 lg:grid-cols-2">
		<div>
			<p>{care.sentence}.</p>
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
		</div>
		<div>
			<h3 class="quiet">Last runs</h3>
			{#if care.turns.length}
				<table class="w-full" aria-label="Last runs of {care.name}">
					<tbody>
						{#each care.turns as turn (turn.opens)}{@render lastTurn(turn)}{/each}
					</tbody>
				</table>
			{:else}
				<p>No runs yet.</p>
			{/if}
		</div>
	</div>
</article>

{#snippet lastTurn(turn: StandingCare['turns'][number])}
	<tr class="border-t border-hair">
		<td class="w-24 py-1 pr-2">{moment(turn.opens)}</td>
		<td>{turnWords(turn)}</td>
		<td class="value w-36 text-right">{sizes(turn)}</td>
		<td class="w-28 text-right"
			>{#if turn.clearing}<a class="anchor underline" href="/stores/clearings/{turn.clearing}"
					>{turn.state === 'planned' ? 'Read and sign' : 'Open plan'}</a
				>{/if}</td
		>
	</tr>
{/snippet}
