<!-- Projects that were looked through: what is wrong with their media; more of them by seat, by night, or brought. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { projectWords } from '../../model/stores/projects';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import LookAtProjects from '../../parts/stores/projects/LookAtProjects.svelte';
	import Nightly from '../../parts/stores/projects/Nightly.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	const projects = createQuery(ask.projects);
	const acts = new Acts('project');
	const may = $derived(session.may('correct'));
</script>

<svelte:head><title>Projects · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · projects</p>
<h1 class="mb-1 text-2xl">Projects</h1>
<p class="mb-4 max-w-[60rem]">
	Media that are listed twice, missing, misplaced, unlike the project or used by nothing. A project is read
	and never written: what to do stands in a list for whoever edits it.
</p>
<Refused {acts} class="mb-3" />
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_24rem]">
	<Ask of={projects}>
		{#snippet children(list)}
			<ul class="content-start">
				{#each list.items as project (project.id)}
					<li class="border-t border-hair py-1.5" data-project={project.file}>
						<div class="flex flex-wrap items-baseline gap-x-4">
							<a class="anchor flex-1 font-semibold underline" href="/stores/projects/{project.id}"
								>{project.file}</a
							>
							<span class="quiet"
								>{project.seat ?? `brought by ${project.brought_by}`}, {moment(project.seen_at)}</span
							>
						</div>
						{#if project.reading}
							<p role="status">The server is reading this project…</p>
						{:else}
							<p class:text-sienna={project.fault || project.missing}>{projectWords(project)}</p>
						{/if}
					</li>
				{:else}
					<li>None yet. Have a seat read its projects, or bring one.</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	<div class="grid content-start gap-8">
		{#if may}<LookAtProjects {acts} />{/if}
		<Nightly {acts} {may} />
	</div>
</div>
