<!-- Which export is looked into, and what it has to be. -->
<script lang="ts">
	import { nameOf } from '../../../model/words/names';

	type Props = { apps: string[]; file: string; onlook: (app: string, specification: string) => unknown };
	let { apps, file = $bindable(), onlook }: Props = $props();

	const EXAMPLE = 'format = "normant-deliverable/1"\nwidth = 3840\nheight = 2160\nrate = "25"';
	let which = $state(0);
	let specification = $state('');

	async function look(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		await onlook(apps[which] ?? '', specification);
	}
</script>

<form class="mt-2 grid gap-3" onsubmit={look}>
	<div class="flex flex-wrap items-end gap-3">
		{#if apps.length > 1}
			<label class="grid gap-1">
				<span class="quiet">Exported by</span>
				<select class="field" bind:value={which}>
					{#each apps as app, at (app)}<option value={at}>{nameOf(app)}</option>{/each}
				</select>
			</label>
		{/if}
		<label class="grid min-w-40 flex-1 gap-1">
			<span class="quiet">File in the export folder</span>
			<input class="field value" maxlength="400" placeholder="latest" bind:value={file} />
		</label>
		<button class="do">Inspect export</button>
	</div>
	<details>
		<summary class="quiet cursor-pointer">Delivery specification</summary>
		<textarea
			class="field value mt-1 w-full"
			rows="5"
			maxlength="10000"
			aria-label="Delivery specification, TOML"
			placeholder={EXAMPLE}
			bind:value={specification}></textarea>
	</details>
</form>
