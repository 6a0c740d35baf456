<!-- Layers as strata: the deeper lies under all, the higher wins. A rule reads as a sentence, and edits as one. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import type { PartEdited } from '../../state/openDraft.svelte';
	import LayerCare from './LayerCare.svelte';
	import RuleEdit from './RuleEdit.svelte';
	import RuleLine from './RuleLine.svelte';

	type Rule = Schemas['RuleOut'];
	type Props = {
		layers: Schemas['LayerOut'][];
		onseat: Schemas['OnSeatOut'][];
		against: Schemas['ContradictedOut'][];
		evidence: Schemas['EvidenceOut'][];
		onedit?: ((edit: PartEdited) => Promise<void>) | undefined;
	};
	let { layers, onseat, against, evidence, onedit }: Props = $props();

	let opened = $state('');
	const strata = $derived([...layers].reverse());
	const keyOf = (rule: Rule): string => rule.at.join('/');

	const placeOf = (rule: Rule) => ({ layer: rule.at[0] ?? 0, rule: rule.at[1] ?? 0 });

	function outcomesOf(rule: Rule): Schemas['OnSeatOut'][] {
		const { layer, rule: number } = placeOf(rule);
		return onseat.filter((outcome) => outcome.layer === layer && outcome.rule === number);
	}

	function toggle(key: string): void {
		opened = opened === key ? '' : key;
	}

	/** The form closes once the change is in the text; a refusal is thrown to the form. */
	async function save(edit: PartEdited): Promise<void> {
		await onedit?.(edit);
		opened = '';
	}
</script>

<ol class="strata">
	{#each strata as layer, index (layer.at)}
		<li class="stratum" style:--depth={strata.length - 1 - index}>
			<header class="flex flex-wrap items-baseline gap-x-3">
				<h2 class="text-lg">{layer.name}</h2>
				<span class="quiet">{layer.applies}</span>
				<span class="quiet ml-auto"
					>{index === strata.length - 1 ? 'lowest priority' : 'overrides the layers below'}</span
				>
			</header>
			<ul class="mt-1">
				{#each layer.rules as rule (keyOf(rule))}
					<RuleLine
						{rule}
						against={against.filter((verdict) => verdict.at.join('/') === keyOf(rule))}
						evidence={evidence.find((spoken) => spoken.at.join('/') === keyOf(rule))}
						outcomes={onseat.length ? outcomesOf(rule) : undefined}
						open={opened === keyOf(rule)}
						onopen={onedit && (() => toggle(keyOf(rule)))}
						onsave={(fields) => save({ ...placeOf(rule), fields })}
						onremove={() => save({ ...placeOf(rule), fields: {}, remove: true })}
					/>
				{:else}
					<li class="quiet">no rules</li>
				{/each}
			</ul>
			<LayerCare {layer} {opened} onopen={toggle} onedit={onedit && save} />
			{#if onedit && layer.at !== null}
				{@render another(layer.name, layer.at)}
			{/if}
		</li>
	{/each}
</ol>

{#snippet another(name: string, at: number)}
	{@const adding = `add ${at}`}
	{#if opened === adding}
		<RuleEdit
			fields={{}}
			onsave={(fields) => save({ layer: at, rule: null, fields })}
			onclose={() => toggle(adding)}
		/>
	{:else}
		<button class="add" onclick={() => toggle(adding)}>Add rule to {name}</button>
	{/if}
{/snippet}

<style>
	.stratum {
		border-left: 6px solid color-mix(in oklch, var(--kelp), var(--paper) calc(var(--depth) * 28%));
		background: var(--sheet);
		padding: 0.6rem 1rem;
		margin-bottom: 3px;
		margin-left: calc(var(--depth) * 14px);
	}
	.add {
		color: var(--kelp);
		font-size: 0.93rem;
		margin-top: 0.3rem;
	}
</style>
