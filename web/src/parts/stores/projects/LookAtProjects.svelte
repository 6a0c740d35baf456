<!-- Forms to scan the projects on a seat and to upload a project; each shows its own result and refusal. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import { heardOf } from '../../../model/house/rooms';
	import { nameOf } from '../../../model/words/names';
	import { Acts } from '../../../state/acts.svelte';
	import { route } from '../../../state/shell/route.svelte';
	import Refused from '../../ui/Refused.svelte';

	const scan = new Acts('project');
	const upload = new Acts('project');

	const floor = createQuery(ask.floor);
	const dialects = createQuery(ask.dialects);
	const seats = $derived(heardOf(floor.data?.items ?? []));
	const apps = $derived([...new Set((dialects.data?.items ?? []).map(({ app }) => app))]);
	let seat = $state(route.query.get('seat') ?? '');
	let app = $state('');
	let storage = $state('');
	let order = $state('');
	const progress = createQuery(() => ({
		...ask.projectScan(order),
		refetchInterval: ({ state }) => (state.data?.finished ? false : 2000)
	}));
	let files = $state<FileList>();

	async function look(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		order = '';
		await scan.do(async () => {
			order = (await write.lookAtProjects({ seat, app, storage, file: '' })).order;
		});
	}

	async function bring(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const file = files?.[0];
		if (file && app)
			await upload.do(async () => route.go(`/stores/projects/${(await write.bringProject(app, file)).id}`));
	}
</script>

<section aria-label="Scan projects">
	<h2 class="mb-2 text-lg">Scan projects</h2>
	<form class="grid gap-3" onsubmit={look}>
		<label class="grid gap-1"
			>Application
			<select class="field" required bind:value={app}>
				{#each apps as id (id)}<option value={id}>{nameOf(id)}</option>{/each}
			</select></label
		>
		<label class="grid gap-1"
			>Seat
			<select class="field" required bind:value={seat}>
				{#each seats as { name } (name)}<option>{name}</option>{/each}
			</select></label
		>
		<label class="grid gap-1"
			>Media folder <span class="quiet">optional; empty: any folder</span>
			<input class="field value" maxlength="400" bind:value={storage} placeholder="/brine/media" /></label
		>
		<button class="do justify-self-start" disabled={scan.busy}>Scan projects on this seat</button>
		<Refused acts={scan} />
		{#if order && progress.data}
			<p role="status" class:text-sienna={progress.data.failed}>{progress.data.sentence}</p>
		{/if}
	</form>
	<form class="mt-5 grid gap-3" onsubmit={bring}>
		<label class="grid gap-1"
			>Or upload a project <span class="quiet">its media files are not checked</span>
			<input class="field" type="file" required bind:files /></label
		>
		<button class="may justify-self-start" disabled={upload.busy || !app}>Upload project</button>
		{#if files?.length && !app}<p class="quiet">Select an application above first.</p>{/if}
		<Refused acts={upload} />
	</form>
</section>
