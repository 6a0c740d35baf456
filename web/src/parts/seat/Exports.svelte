<!-- Having a seat look into its finished exports, frame by frame, and what it found. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Inspection from './Inspection.svelte';
	import Ask from '../ui/Ask.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { seat: string };
	let { seat }: Props = $props();

	const EXAMPLE = 'format = "normant-deliverable/1"\nwidth = 3840\nheight = 2160\nrate = "25"';
	let which = $state(0);
	let file = $state('');
	let specification = $state('');
	const acts = new Acts('seat');
	const exports = createQuery(() => ask.exports(seat));

	async function look(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const app = exports.data?.apps[which];
		if (app) await acts.do(() => write.inspectExport(seat, { app, file, specification }));
	}
</script>

<h3 class="title mt-5">Is an export whole?</h3>
<Ask of={exports}>
	{#snippet children(found)}
		{#if !found.apps.length}
			<p class="quiet mt-1">
				No application here names a store of exports. On any machine:
				<span class="value">normant inspect FILE</span>.
			</p>
		{:else if session.may('correct')}
			<form class="mt-2 grid gap-3" onsubmit={look}>
				<div class="flex flex-wrap items-end gap-3">
					{#if found.apps.length > 1}
						<label class="grid gap-1">
							<span class="quiet">Exported by</span>
							<select class="field" bind:value={which}>
								{#each found.apps as app, at (app)}<option value={at}>{nameOf(app)}</option>{/each}
							</select>
						</label>
					{/if}
					<label class="grid min-w-40 flex-1 gap-1">
						<span class="quiet">File in its exports</span>
						<input class="field value" maxlength="400" placeholder="the newest" bind:value={file} />
					</label>
					<button class="do">Look into it</button>
				</div>
				<details>
					<summary class="quiet cursor-pointer">What it has to be</summary>
					<textarea
						class="field value mt-1 w-full"
						rows="5"
						maxlength="10000"
						aria-label="What it has to be, TOML"
						placeholder={EXAMPLE}
						bind:value={specification}></textarea>
				</details>
			</form>
			<Refused {acts} class="mt-2" />
		{/if}
		<ul class="mt-3">
			{#each found.inspections as inspection (inspection.order)}
				<Inspection {inspection} onpick={(other) => (file = other)} />
			{/each}
		</ul>
	{/snippet}
</Ask>
