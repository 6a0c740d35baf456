<!-- On a seat's own page: projects whose lists somebody sent here. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../../api/queries';
	import { projectWords } from '../../../model/stores/projects';
	import { moment } from '../../../model/words/moment';
	import Troubles from './Troubles.svelte';

	type Props = { seat: string };
	let { seat }: Props = $props();

	const projects = createQuery(() => ask.seatProjects(seat));
</script>

{#each projects.data?.items ?? [] as project (project.id)}
	<section class="mt-7" data-project={project.file}>
		<h2 class="text-lg">Clean up {project.file}</h2>
		<p>{projectWords(project)}. <span class="quiet">Read {moment(project.seen_at)}.</span></p>
		<Troubles list={project.list} more={project.more} />
	</section>
{/each}
