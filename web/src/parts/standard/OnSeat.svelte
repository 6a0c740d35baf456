<!-- What a rule comes to on one seat, for each application that it speaks of. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { nameOf } from '../../model/words/names';

	type Outcome = Schemas['OnSeatOut'];
	type Props = { outcomes: Outcome[] };
	let { outcomes }: Props = $props();

	const LONGEST = 60; // signs that fit beside a rule
	const HOW = { made: '', lost: 'overridden: ', silent: 'does not apply' };
	const standing = (outcome: Outcome): string =>
		outcome.met === false ? ', requires ' : outcome.met ? ', in norm' : ', cannot be checked';
	const wants = ({ met, wants }: Outcome): string =>
		met === false ? (wants.length > LONGEST ? 'as in the rule' : wants) : '';
</script>

<ul class="w-72 shrink-0 text-[0.87rem]">
	{#each outcomes as outcome (outcome.app)}
		<li
			class:text-sienna={outcome.how === 'made' && outcome.met === false}
			class:quiet={outcome.how !== 'made'}
		>
			{HOW[outcome.how]}{#if outcome.how !== 'silent'}{outcome.app ? `${nameOf(outcome.app)} ` : ''}<span
					class="value">{outcome.reading}</span
				>{standing(outcome)}<span class="value">{wants(outcome)}</span>{/if}
		</li>
	{/each}
</ul>
