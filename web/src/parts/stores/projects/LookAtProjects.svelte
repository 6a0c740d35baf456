<!-- Having a seat read its projects, or bringing one. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import { heardOf } from '../../../model/house/rooms';
	import { nameOf } from '../../../model/words/names';
	import type { Acts } from '../../../state/acts.svelte';
	import { route } from '../../../state/shell/route.svelte';

	type Props = { acts: Acts };
	let { acts }: Props = $props();

	const floor = createQuery(ask.floor);
	const dialects = createQuery(ask.dialects);
	const seats = $derived(heardOf(floor.data?.items ?? []));
	const apps = $derived([...new Set((dialects.data?.items ?? []).map(({ app }) => app))]);
	let seat = $state(route.query.get('seat') ?? '');
	let app = $state('');
	let storage = $state('');
	let asked = $state('');
	let files = $state<FileList>();

	async function look(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.do(() => write.lookAtProjects({ seat, app, storage, file: '' }))) asked = seat;
	}

	async function bring(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const file = files?.[0];
		if (file && app)
			await acts.do(async () => route.go(`/stores/projects/${(await write.bringProject(app, file)).id}`));
	}
</script>

<section aria-label="Look through projects">
	<h2 class="mb-2 text-lg">Look through projects</h2>
	<form class="grid gap-3" onsubmit={look}>
		<label class="grid gap-1"
			>Application
			<select class="field" required bind:value={app}>
				{#each apps as id (id)}<option value={id}>{nameOf(id)}</option>{/each}
			</select></label
		>
		<label class="grid gap-1"
			>At the seat
			<select class="field" required bind:value={seat}>
				{#each seats as { name } (name)}<option>{name}</option>{/each}
			</select></label
		>
		<label class="grid gap-1"
			>Its media belong in <span class="quiet">a folder; empty: they may lie anywhere</span>
			<input class="field value" maxlength="400" bind:value={storage} placeholder="/brine/media" /></label
		>
		<button class="do justify-self-start" disabled={acts.busy}>Have them read there</button>
		{#if asked}<p role="status">{asked} reads them; each comes up here when it is done.</p>{/if}
	</form>
	<form class="mt-5 grid gap-3" onsubmit={bring}>
		<label class="grid gap-1"
			>Or bring one <span class="quiet">its media are not looked for then</span>
			<input class="field" type="file" required bind:files /></label
		>
		<button class="may justify-self-start" disabled={acts.busy || !app}>Read this file</button>
	</form>
</section>
