<!-- Layers as strata: the deeper lies under all, the higher wins. A rule reads as a sentence, and edits as one. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { nameOf } from '../../model/words/names';
	import RuleEdit from './RuleEdit.svelte';

	type Rule = Schemas['RuleOut'];
	type Fields = Schemas['RuleEditIn']['fields'];
	type Props = {
		layers: Schemas['LayerOut'][];
		onseat: Schemas['OnSeatOut'][];
		against: Schemas['ContradictedOut'][];
		onedit?:
			((edit: { layer: number; rule: number | null; fields: Fields; remove?: boolean }) => void) | undefined;
	};
	let { layers, onseat, against, onedit }: Props = $props();

	let opened = $state('');
	const strata = $derived([...layers].reverse());
	const keyOf = (rule: Rule): string => rule.at.join('/');

	function toldOf(rule: Rule): Schemas['OnSeatOut'][] {
		return onseat.filter((told) => told.layer === rule.at[0] && told.rule === rule.at[1]);
	}

	function edited(layer: number, rule: number | null, fields: Fields): void {
		opened = '';
		onedit?.({ layer, rule, fields });
	}

	const HOW = { made: '', lost: 'overridden: ', silent: 'does not apply' };
</script>

<ol class="strata">
	{#each strata as layer, index (layer.at)}
		<li class="stratum" style:--depth={strata.length - 1 - index}>
			<header class="flex flex-wrap items-baseline gap-x-3">
				<h2 class="text-lg">{layer.name}</h2>
				<span class="quiet">{layer.applies}</span>
				<span class="quiet ml-auto"
					>{index === strata.length - 1 ? 'lies under all' : 'wins over what lies below'}</span
				>
			</header>
			<ul class="mt-1">
				{#each layer.rules as rule (keyOf(rule))}
					<li class="border-t border-hair py-1.5" data-rule={keyOf(rule)}>
						<div class="flex gap-x-3">
							<div class="min-w-0 flex-1">
								{#if onedit}
									<button
										class="sentence"
										aria-expanded={opened === keyOf(rule)}
										onclick={() => (opened = opened === keyOf(rule) ? '' : keyOf(rule))}
										>{rule.sentence}.</button
									>
								{:else}
									<span>{rule.sentence}.</span>
								{/if}
								<span class="quiet"
									>{rule.severity}{rule.locked ? ', locked' : ''}, {rule.evidence}{rule.line
										? `, line ${rule.line}`
										: ''}</span
								>
								{#if rule.because}<p class="quiet">{rule.because}</p>{/if}
								{#if rule.rests_on}<p class="quiet">Rests on: {rule.rests_on}</p>{/if}
								{#each against.filter((one) => one.at.join('/') === keyOf(rule)) as one (one.sentence)}
									<p class="text-sm text-sienna" data-against>{one.sentence}</p>
								{/each}
							</div>
							{#if onseat.length}
								<ul class="w-72 shrink-0 text-[0.87rem]">
									{#each toldOf(rule) as told (told.app)}
										<li
											class:text-sienna={told.how === 'made' && told.met === false}
											class:quiet={told.how !== 'made'}
										>
											{HOW[told.how]}{#if told.how !== 'silent'}{told.app ? `${nameOf(told.app)} ` : ''}<span
													class="value">{told.reading}</span
												>{told.met === false
													? ', wants '
													: told.met
														? ', in norm'
														: ', cannot be judged'}{#if told.met === false}<span class="value"
														>{told.wants.length > 60 ? 'as the rule says' : told.wants}</span
													>{/if}{/if}
										</li>
									{/each}
								</ul>
							{/if}
						</div>
						{#if opened === keyOf(rule)}
							<RuleEdit
								fields={rule.fields}
								onsave={(fields) => edited(rule.at[0] ?? 0, rule.at[1] ?? 0, fields)}
								onremove={() =>
									onedit?.({ layer: rule.at[0] ?? 0, rule: rule.at[1] ?? 0, fields: {}, remove: true })}
								onclose={() => (opened = '')}
							/>
						{/if}
					</li>
				{:else}
					<li class="quiet">no rules</li>
				{/each}
			</ul>
			{#if onedit && layer.at !== null}
				{#if opened === `add ${layer.at}`}
					<RuleEdit
						fields={{}}
						onsave={(fields) => edited(layer.at ?? 0, null, fields)}
						onclose={() => (opened = '')}
					/>
				{:else}
					<button class="add" onclick={() => (opened = `add ${layer.at}`)}
						>Another rule in {layer.name}</button
					>
				{/if}
			{/if}
		</li>
	{/each}
</ol>

<style>
	.stratum {
		border-left: 6px solid color-mix(in oklch, var(--kelp), var(--paper) calc(var(--depth) * 28%));
		background: var(--sheet);
		padding: 0.6rem 1rem;
		margin-bottom: 3px;
		margin-left: calc(var(--depth) * 14px);
	}
	.sentence {
		text-align: left;
	}
	.sentence:hover {
		text-decoration: underline;
		text-underline-offset: 3px;
	}
	.add {
		color: var(--kelp);
		font-size: 0.93rem;
		margin-top: 0.3rem;
	}
</style>
