<!-- Scanned projects with the problems of their media as proportions; forms to scan or upload more. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { projectWords } from '../../model/stores/projects';
	import { moment } from '../../model/words/moment';
	import { session } from '../../state/shell/session.svelte';
	import LookAtProjects from '../../parts/stores/projects/LookAtProjects.svelte';
	import ProjectShares from '../../parts/stores/projects/ProjectShares.svelte';
	import Nightly from '../../parts/stores/projects/Nightly.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	const projects = createQuery(ask.projects);
	const may = $derived(session.may('correct'));
</script>

<svelte:head><title>Projects · Normant</title></svelte:head>
<p class="quiet"><a class="anchor underline" href="/stores">Stores</a> · projects</p>
<h1 class="mb-1 text-2xl">Projects</h1>
<p class="quiet mb-4">
	Media that are missing, misplaced, listed twice, unused, or in a format unlike the project. Projects are
	never changed: each one gets a to-do list for its editor.
</p>
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
								>{project.seat ?? `uploaded by ${project.brought_by}`}, {moment(project.seen_at)}</span
							>
						</div>
						{#if project.reading}
							<p role="status">The server is reading this project…</p>
						{:else}
							<p class:text-sienna={project.fault || project.missing}>{projectWords(project)}</p>
							<ProjectShares {project} />
						{/if}
					</li>
				{:else}
					<li>No projects yet. Scan the projects on a seat, or upload one.</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	<div class="grid content-start gap-8">
		{#if may}<LookAtProjects />{/if}
		<Nightly {may} />
	</div>
</div>
