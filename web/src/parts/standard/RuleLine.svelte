<!-- A rule as a sentence, with what contradicts it and what it comes to on a seat; it opens as a form. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { severityWords } from '../../model/words/severity';
	import { addressOf } from '../../state/newTrial.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { day } from '../../model/words/moment';
	import OnSeat from './OnSeat.svelte';
	import RuleEdit from './RuleEdit.svelte';

	type Props = {
		rule: Schemas['RuleOut'];
		against: Schemas['ContradictedOut'][];
		evidence?: Schemas['EvidenceOut'] | undefined;
		outcomes: Schemas['OnSeatOut'][] | undefined;
		open: boolean;
		onopen?: (() => void) | undefined;
		onsave: (fields: Schemas['RuleEditIn']['fields']) => Promise<void>;
		onremove: () => Promise<void>;
	};
	let { rule, against, evidence, outcomes, open, onopen, onsave, onremove }: Props = $props();

	/** Families whose settings can be tried by runs. */
	const TRIED = /^(engine|memory|playback|power)\./;
	const tryable = $derived.by(() => {
		const [setting, app] = [String(rule.fields['setting']), rule.fields['app']];
		if (rule.evidence !== 'untested' || !TRIED.test(setting) || !session.may('correct')) return '';
		return addressOf([], [{ setting, app: typeof app === 'string' ? app : null }]);
	});
	const about = $derived(
		`${severityWords(rule.severity)}${rule.locked ? ', locked' : ''}, ${evidence?.grade ?? rule.evidence}${rule.line ? `, line ${rule.line}` : ''}`
	);
</script>

<li class="border-t border-hair py-1.5" data-rule={rule.at.join('/')}>
	<div class="flex gap-x-3">
		<div class="min-w-0 flex-1">
			{#if onopen}
				<button class="sentence" aria-expanded={open} onclick={onopen}>{rule.sentence}.</button>
			{:else}
				<span>{rule.sentence}.</span>
			{/if}
			<span class="quiet">{about}</span>
			{#if rule.because}<p class="quiet">{rule.because}</p>{/if}
			{#if rule.rests_on}<p class="quiet">Source: {rule.rests_on}</p>{/if}
			{#if evidence}
				<p class="text-sm" class:text-sienna={evidence.grade === 'contradicted'} data-grade={evidence.grade}>
					{evidence.grade === 'measured' ? 'Measured' : 'Contradicted'} since {day(evidence.since)}:
					<a class="anchor underline" href="/measure/trials/{evidence.trial}">{evidence.sentence}</a>.
				</p>
			{/if}
			{#if !evidence && tryable}
				<a class="quiet underline" href={tryable}>Not measured. Run a trial</a>
			{/if}
			{#each against as verdict (verdict.sentence)}
				<p class="text-sm text-sienna" data-against>{verdict.sentence}</p>
			{/each}
		</div>
		{#if outcomes}<OnSeat {outcomes} />{/if}
	</div>
	{#if open && onopen}
		<RuleEdit fields={rule.fields} {onsave} {onremove} onclose={onopen} />
	{/if}
</li>

<style>
	.sentence {
		text-align: left;
	}
	.sentence:hover {
		text-decoration: underline;
		text-underline-offset: 3px;
	}
</style>
