<!-- When a plan starts, the order of its seats, and its limits; the server computes it again with each change. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';
	import { nameOfWave, type Terms } from '../../model/rollout/terms';
	import TermsForm from './TermsForm.svelte';
	import WhenForm from './WhenForm.svelte';

	type Props = {
		order: Schemas['OrderOfSeatsOut'];
		terms: Terms;
		onterms: (terms: Terms) => void;
		stale: boolean;
		moving?: boolean;
		workedOut?: boolean;
	};
	let { order, terms, onterms, stale, moving = false, workedOut = false }: Props = $props();

	const NAMED = 10;
	function names(wave: Schemas['WaveOut']): string {
		const named = wave.turns.slice(0, NAMED).map((turn) => turn.seat);
		const more = wave.turns.length - named.length;
		return named.join(', ') + (more ? ` and ${more} more` : '');
	}
	const begins = (wave: Schemas['WaveOut']): string => moment(wave.turns[0]?.begins ?? '');
</script>

<section class="order" aria-labelledby="order">
	<WhenForm {terms} {onterms} />
	<div class="flex flex-wrap items-baseline gap-x-4">
		<h3 id="order" class="text-base">Order of seats</h3>
		<p role="status" class:quiet={stale} data-order>{order.sentence}</p>
	</div>
	<ol class="my-2">
		{#each order.waves as wave (wave.wave)}
			<li class="wave">
				<span class="font-semibold">{nameOfWave(wave.wave)}</span>
				<span>{names(wave)}</span>
				<span class="quiet"
					>{wave.turns[0]?.why ? `${wave.turns[0].why}; about ${begins(wave)}` : `from ${begins(wave)}`}</span
				>
			</li>
		{/each}
	</ol>
	{#each order.without as late (late.seat)}
		<p class="text-sienna">{late.seat} has no slot: {late.why}.</p>
	{/each}
	<details>
		<summary>Limits</summary>
		<TermsForm {terms} {onterms} {moving} {workedOut} />
	</details>
</section>

<style>
	.order {
		border-bottom: 1px solid var(--hair);
		padding-bottom: 0.8rem;
		margin-bottom: 1rem;
	}
	.wave {
		display: grid;
		grid-template-columns: 6rem minmax(0, 1fr) minmax(10rem, auto);
		gap: 0.2rem 1rem;
		border-top: 1px solid var(--hair);
		padding-block: 0.25rem;
	}
	summary {
		cursor: pointer;
		color: var(--kelp);
	}
	@media (max-width: 640px) {
		.wave {
			grid-template-columns: 1fr;
		}
	}
</style>
