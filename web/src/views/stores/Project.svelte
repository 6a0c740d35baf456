<!-- A project: what is wrong with its media and what to do; its list goes to the seat, an errand to whoever carries. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { removing } from '../../api/anew';
	import { ask } from '../../api/queries';
	import { projectWords } from '../../model/stores/projects';
	import { moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import ProjectShares from '../../parts/stores/projects/ProjectShares.svelte';
	import Troubles from '../../parts/stores/projects/Troubles.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const project = createQuery(() => ask.project(number));
	const acts = new Acts('project');
	const may = $derived(session.may('correct'));

	const carry = (): Promise<boolean> =>
		acts.do(async () => route.go(`/errands/${(await write.projectErrand(number)).id}`));
	const forget = (): Promise<boolean> =>
		acts.do(async () => {
			await removing(['project', number], () => write.forgetProject(number));
			route.go('/stores/projects');
		});
</script>

<svelte:head><title>Project · Normant</title></svelte:head>
<p class="quiet">
	<a class="anchor underline" href="/stores">Stores</a> ·
	<a class="anchor underline" href="/stores/projects">projects</a>
</p>
<Ask of={project}>
	{#snippet children(found)}
		<h1 class="text-2xl">{found.file}</h1>
		<p class="quiet">
			{nameOf(found.app)}
			{found.version}{found.production ? ` · ${found.production}` : ''} ·
			{found.seat ? `scanned on ${found.seat}` : `uploaded by ${found.brought_by}; media files not checked`},
			{moment(found.seen_at)}
		</p>
		{#if found.reading}
			<p class="mt-2" role="status" data-words>The server is reading this project…</p>
		{:else}
			<p class="mt-2" data-words>{projectWords(found)}.</p>
			<ProjectShares project={found} />
		{/if}
		{#if may}
			<div class="my-3 flex flex-wrap gap-2">
				{#if found.seat && found.troubles}
					<button
						class={found.sent_at ? 'may' : 'do'}
						disabled={acts.busy}
						onclick={() => acts.do(() => write.sendProject(number, !found.sent_at))}
						>{found.sent_at ? `Withdraw list from ${found.seat}` : `Send list to ${found.seat}`}</button
					>
				{/if}
				{#if found.seat && found.by_hand}
					<button class="may" disabled={acts.busy} onclick={carry}
						>Create errand for missing or misplaced media</button
					>
				{/if}
				<button class="may" disabled={acts.busy} onclick={forget}>Delete project</button>
			</div>
		{/if}
		<Refused {acts} />
		{#if found.sent_at}<p class="quiet" role="status">
				List shown to the editor of {found.seat} since {moment(found.sent_at)}.
			</p>{/if}
		<Troubles list={found.list} more={found.more} />
	{/snippet}
</Ask>
