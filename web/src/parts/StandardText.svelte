<script lang="ts">
	import { api, data } from '../api/client';
	import { queryClient } from '../api/queries';
	import { session } from '../state/session.svelte';
	import { Draft } from '../state/draft.svelte';
	import { editor } from './editor.svelte';
	import Impact from './Impact.svelte';

	type Props = { text: string; base: number };
	let { text, base }: Props = $props();

	// svelte-ignore state_referenced_locally (another edition makes another draft: the parent keys by number)
	const draft = new Draft(text);
	const publishing = $derived(session.may('publish'));
	let note = $state('');
	let refused = $state('');
	let busy = $state(false);

	async function publish(): Promise<void> {
		busy = true;
		try {
			await data(api.POST('/api/v1/standard/publish', { body: { text: draft.text, base, note } }));
			await queryClient.invalidateQueries({ queryKey: ['standard'] });
		} catch (error) {
			refused = (error as Error).message;
		} finally {
			busy = false;
		}
	}
</script>

<div class="grid gap-5 lg:grid-cols-[minmax(0,1fr)_20rem]">
	<div
		class="border border-rule bg-sheet"
		{@attach editor({
			text,
			readonly: !publishing,
			faults: () => draft.faults,
			onchange: (now) => draft.write(now)
		})}
	></div>
	<aside aria-label="Before publishing" class="lg:sticky lg:top-4 lg:self-start">
		{#if !publishing}
			<p class="quiet">Only a supervisor may change the standard.</p>
		{:else if !draft.changed}
			<p class="quiet">
				Change the text: what it would open and close is said here before anything is published.
			</p>
		{:else}
			<Impact {draft} />
			<label class="mt-4 block"
				>Note <input
					class="field mt-1 w-full"
					maxlength="300"
					placeholder="what changed, and why"
					bind:value={note}
				/></label
			>
			{#if refused}<p class="mt-2 text-oxblood" role="alert">{refused}</p>{/if}
			<button class="do mt-3" disabled={!draft.sound || busy} onclick={publish}
				>Publish edition {base + 1}</button
			>
		{/if}
	</aside>
</div>
