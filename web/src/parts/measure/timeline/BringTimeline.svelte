<!-- Bringing a timeline: the file or the folder of a bundle, and the list of what its sources are. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import { Acts } from '../../../state/acts.svelte';
	import Refused from '../../ui/Refused.svelte';

	const INNER = 'content.otio';
	let name = $state('');
	let files = $state<FileList>();
	let folder = $state<FileList>();
	let media = $state<FileList>();
	const acts = new Acts('timeline');

	/** Of a folder only the timeline that lies in it: what it shows stays where it is. */
	const chosen = $derived(
		files?.[0] ?? [...(folder ?? [])].find((file) => file.webkitRelativePath.endsWith(`/${INNER}`))
	);

	async function bring(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const file = chosen;
		if (!file) return;
		const sources = (await media?.[0]?.text()) ?? '';
		if (await acts.do(() => write.keepTimeline(name, file, sources))) name = '';
	}
</script>

<form class="grid content-start gap-3" onsubmit={bring}>
	<h2 class="text-lg">Upload timeline</h2>
	<label class="grid gap-1">Name <input class="field" required maxlength="120" bind:value={name} /></label>
	<label class="grid gap-1"
		>OpenTimelineIO, .otio or .otioz <input
			class="field"
			type="file"
			accept=".otio,.otioz"
			bind:files
		/></label
	>
	<label class="grid gap-1"
		>or a folder, .otiod <input class="field" type="file" webkitdirectory bind:files={folder} /></label
	>
	<label class="grid gap-1"
		>List of its sources, .csv <input class="field" type="file" accept=".csv" bind:files={media} /></label
	>
	<p class="quiet">
		Columns <span class="value">target_url, codec, width, height</span>. A timeline with the same name is
		replaced.
	</p>
	<button class="do justify-self-start" disabled={acts.busy || !chosen}>Upload timeline</button>
	<Refused {acts} />
</form>
