<!-- The standing care of a layer: sentences that open as forms, and another one. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import CareEdit from './CareEdit.svelte';

	type Fields = Schemas['RuleEditIn']['fields'];
	type Edited = { part: 'care'; layer: number; rule: number | null; fields: Fields; remove?: boolean };
	type Props = {
		layer: Schemas['LayerOut'];
		opened: string;
		onopen: (key: string) => void;
		onedit?: ((edit: Edited) => Promise<void>) | undefined;
	};
	let { layer, opened, onopen, onedit }: Props = $props();

	const adding = $derived(`care ${layer.at}`);

	async function save(rule: number | null, fields: Fields, remove = false): Promise<void> {
		await onedit?.({ part: 'care', layer: layer.at ?? 0, rule, fields, remove });
	}
</script>

{#if layer.care.length}
	<ul aria-label="Automatic clean-up in {layer.name}">
		{#each layer.care as care (care.name)}
			{@render sentence(care)}
		{/each}
	</ul>
{/if}
{#if onedit && layer.at !== null}
	{#if opened === adding}
		<CareEdit fields={{}} onsave={(fields) => save(null, fields)} onclose={() => onopen(adding)} />
	{:else}
		<button class="add" onclick={() => onopen(adding)}>Automatic clean-up in {layer.name}</button>
	{/if}
{/if}

{#snippet sentence(care: Schemas['LayerOut']['care'][number])}
	{@const key = `care ${care.at.join('/')}`}
	<li class="border-t border-hair py-1.5" data-care={care.name}>
		{#if onedit}
			<button class="sentence" aria-expanded={opened === key} onclick={() => onopen(key)}
				>{care.sentence}.</button
			>
		{:else}{care.sentence}.{/if}
		<span class="quiet">automatic clean-up, {care.name}{care.line ? `, line ${care.line}` : ''}</span>
		{#if care.because}<p class="quiet">{care.because}</p>{/if}
		{#if onedit && opened === key}
			<CareEdit
				fields={care.fields}
				onsave={(fields) => save(care.at[1] ?? 0, fields)}
				onremove={() => save(care.at[1] ?? 0, {}, true)}
				onclose={() => onopen(key)}
			/>
		{/if}
	</li>
{/snippet}

<style>
	.sentence {
		text-align: left;
	}
	.sentence:hover {
		text-decoration: underline;
		text-decoration-color: var(--kelp);
	}
	.add {
		color: var(--kelp);
		font-size: 0.93rem;
		margin: 0.3rem 1.2rem 0 0;
	}
</style>
