<!-- Before publishing: what the text would do, what is doubtful in it, and what becomes of it. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { Acts } from '../../state/acts.svelte';
	import type { Draft, Seen } from '../../state/draft.svelte';
	import { momentOfField } from '../../model/words/zone';
	import { session } from '../../state/shell/session.svelte';
	import Refused from '../ui/Refused.svelte';
	import CareImpact from './CareImpact.svelte';
	import DraftPlan from './DraftPlan.svelte';
	import Impact from './Impact.svelte';

	type Props = {
		draft: Draft;
		base: number;
		newest: number;
		kept: Seen | null;
		second: boolean;
		onkept: (kept: Seen) => void;
		onpublished: (text: string, number: number) => void;
		onscheduled: () => void;
	};
	let { draft, base, newest, kept, second, onkept, onpublished, onscheduled }: Props = $props();

	const CALM_MS = 600; // doubts are looked for when the keys rest

	let planning = $state(false);
	let note = $state('');
	let at = $state('');
	const acts = new Acts('standard');
	let calm = $state('');
	const doubts = createQuery(() => ({ ...ask.doubts(calm), placeholderData: keepPreviousData }));
	const warnings = $derived((doubts.data?.items ?? []).filter((doubt) => doubt.level === 'warning'));

	$effect(() => {
		const text = draft.text;
		const timer = setTimeout(() => (calm = draft.faults.length ? '' : text), CALM_MS);
		return () => clearTimeout(timer);
	});

	let missing = $state(false);
	let noteField = $state<HTMLInputElement>();

	/** An edition is published with a note: without one the field is shown as missing, and nothing is sent. */
	function noted(): boolean {
		missing = !note.trim();
		if (missing) noteField?.focus();
		return !missing;
	}

	const publish = async (): Promise<boolean> =>
		noted() &&
		acts.do(async () => {
			const { text } = draft;
			onpublished(text, (await write.publish({ text, base, note })).number);
		});

	async function saved(): Promise<Seen> {
		const now = kept
			? await write.changeDraft(kept, draft.text, note)
			: await write.keepDraft({ text: draft.text, note, base });
		return { id: now.id, seen: now.seen };
	}

	const keep = (): Promise<boolean> => acts.do(async () => onkept(await saved()));
	const schedule = async (): Promise<boolean> =>
		noted() &&
		acts.do(async () => {
			await write.publishDraft(await saved(), momentOfField(at));
			onscheduled();
		});
</script>

{#if !session.may('publish')}
	<p class="quiet">Only supervisors may change the standard.</p>
{:else if !draft.changed}
	<p class="quiet">Change a sentence or the text to see its effect here before you publish.</p>
{:else}
	<Impact {draft} />
	<CareImpact text={calm} />
	{#if draft.sound && session.may('correct')}
		<p class="mt-2">
			<button class="anchor underline" onclick={() => (planning = true)}>Plan the corrections…</button>
		</p>
	{/if}
	{#if planning}<DraftPlan text={draft.text} onclose={() => (planning = false)} />{/if}
	{#if warnings.length && !draft.faults.length}
		{@render doubtful()}
	{/if}
	<label class="mt-4 block"
		>Note <input
			class="field mt-1 w-full"
			maxlength="300"
			placeholder="what changed, and why"
			aria-invalid={missing && !note.trim()}
			bind:value={note}
			bind:this={noteField}
		/></label
	>
	{#if missing && !note.trim()}
		<p class="text-oxblood" role="alert">Add a note before you publish: what changed, and why.</p>
	{/if}
	{#if base !== newest}
		<p class="mt-2 text-sienna">
			This draft is based on edition {base}; edition {newest} has been published since.
		</p>
	{/if}
	<Refused {acts} class="mt-2" />
	<div class="mt-3 flex flex-wrap gap-2">
		{#if !second}
			<button class="do" disabled={!draft.sound || acts.busy} onclick={publish}
				>Publish edition {newest + 1}</button
			>
		{/if}
		<button class="may" disabled={acts.busy} onclick={keep}
			>{kept ? `Save draft ${kept.id}` : second ? 'Save draft for approval' : 'Save as draft'}</button
		>
	</div>
	<details class="mt-3">
		<summary>Schedule publication</summary>
		<div class="mt-1 flex gap-2">
			<input class="field w-auto" type="datetime-local" aria-label="When" bind:value={at} />
			<button class="may" disabled={!at || !draft.sound || acts.busy} onclick={schedule}>Schedule</button>
		</div>
	</details>
{/if}

{#snippet doubtful()}
	<details class="mt-3" data-doubts>
		<summary>{warnings.length === 1 ? '1 warning' : `${warnings.length} warnings`}</summary>
		<ul>
			{#each warnings as doubt, index (index)}
				<li class="border-t border-hair py-1">
					<span class="value text-[0.87rem]">{doubt.line ?? ''}</span>
					{doubt.message}{doubt.seats.length ? ` (${doubt.seats.slice(0, 4).join(', ')})` : ''}
				</li>
			{/each}
		</ul>
	</details>
{/snippet}
