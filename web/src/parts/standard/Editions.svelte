<!-- Drafts and editions: opened, approved, compared, and gone back to. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { exactly, moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import type { Seen } from '../../state/draft.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = {
		newest: number;
		read: Seen | null;
		onopen: (number: number) => void;
		onback: (number: number) => void;
	};
	let { newest, read, onopen, onback }: Props = $props();

	const editions = createQuery(ask.editions);
	const drafts = createQuery(ask.drafts);
	let compared = $state(0);
	const acts = new Acts('standard');
	const changes = createQuery(() => ({ ...ask.changedIn(compared), enabled: compared > 0 }));
	const acting = $derived(session.may('publish'));
	const approvable = (draft: Schemas['DraftRowOut']): boolean =>
		acting && draft.made_by !== session.name && !draft.approved_by;

	/** What is done rests on what was read: a draft that somebody changed meanwhile is refused. */
	const act = (draft: Seen, what: 'approve' | 'publish' | 'drop'): Promise<boolean> =>
		acts.do(() => (what === 'publish' ? write.publishDraft(draft, null) : write.toDraft(draft, what)));
</script>

{#if drafts.data?.items.length}
	<section class="mt-6" aria-label="Drafts">
		<h2 class="text-base">Drafts</h2>
		<Refused {acts} />
		{#each drafts.data.items as draft (draft.id)}{@render draftLine(draft)}{/each}
	</section>
{/if}
<section class="mt-6" aria-label="Editions">
	<h2 class="text-base">Editions</h2>
	{#each editions.data?.items ?? [] as edition (edition.number)}{@render editionLine(edition)}{/each}
</section>

{#snippet draftLine(draft: Schemas['DraftRowOut'])}
	<div class="line" data-draft={draft.id}>
		<p class="min-w-0 flex-1">
			<span class="value">{draft.id}</span>
			{draft.note || 'no note'}<span class="quiet"
				>, {draft.made_by}, {moment(draft.changed_at)}, from edition {draft.base}{draft.approved_by
					? `, approved by ${draft.approved_by}`
					: ''}{draft.publish_at ? `, scheduled for ${exactly(draft.publish_at)}` : ''}</span
			>
			{#if draft.problem}<span class="text-sienna">Not published: {draft.problem}</span>{/if}
		</p>
		<button class="act" onclick={() => onopen(draft.id)}
			>{approvable(draft) && read?.id !== draft.id ? 'Open to approve' : 'Open'}</button
		>
		{#if acting}
			{#if approvable(draft) && read?.id === draft.id}
				<button class="act" onclick={() => act(read, 'approve')}>Approve</button>
			{/if}
			<button class="act" onclick={() => act(draft, 'publish')}>Publish draft</button>
			<button class="act" onclick={() => act(draft, 'drop')}>Delete draft</button>
		{/if}
	</div>
{/snippet}

{#snippet editionLine(edition: Schemas['EditionOut'])}
	<div class="line" data-edition={edition.number}>
		<p class="min-w-0 flex-1">
			<span class="value">{edition.number}</span>
			{edition.note || 'no note'}<span class="quiet"
				>, {moment(edition.published_at)}{edition.published_by ? `, ${edition.published_by}` : ''}</span
			>
		</p>
		<button
			class="act"
			aria-expanded={compared === edition.number}
			onclick={() => (compared = compared === edition.number ? 0 : edition.number)}>Show changes</button
		>
		{#if acting && edition.number !== newest}
			<button class="act" onclick={() => onback(edition.number)}>Restore this edition</button>
		{/if}
	</div>
	{#if compared === edition.number && changes.data}
		{@render changed()}
	{/if}
{/snippet}

{#snippet changed()}
	<ul class="mb-2 ml-6">
		{#each changes.data?.items ?? [] as changed, index (index)}
			<li class="border-t border-hair py-1">
				<span class="quiet">{changed.layer}:</span>
				{#if changed.before}<del class="quiet">{changed.before}</del>{/if}
				{#if changed.after}<ins>{changed.after}</ins>{/if}
			</li>
		{:else}
			<li class="quiet">No changes to rules.</li>
		{/each}
	</ul>
{/snippet}

<style>
	.line {
		display: flex;
		gap: 1rem;
		align-items: baseline;
		border-top: 1px solid var(--hair);
		padding-block: 0.35rem;
	}
	.act {
		color: var(--kelp);
		font-size: 0.93rem;
		white-space: nowrap;
	}
	.act:hover {
		text-decoration: underline;
	}
	ins {
		text-decoration: none;
	}
</style>
