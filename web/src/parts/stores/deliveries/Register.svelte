<!-- A finished export that no seat has proposed, registered by hand. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import type { Acts } from '../../../state/acts.svelte';
	import AppSelect from '../AppSelect.svelte';

	type Props = { acts: Acts };
	let { acts }: Props = $props();

	let open = $state(false);
	let project = $state('');
	let production = $state('');
	let app = $state('');
	let file = $state('');
	let digest = $state('');
	let size = $state<number>();

	async function register(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const finished_at = new Date().toISOString();
		const body = { project, production, app, file, digest, size: size ?? 0, finished_at, seat: '' };
		if (await acts.do(() => write.proposeDelivery(body))) open = false;
	}
</script>

<div>
	<button class="may" aria-expanded={open} onclick={() => (open = !open)}>Register an export…</button>
	{#if open}
		<form class="mt-3 grid max-w-[40rem] gap-3 md:grid-cols-2" onsubmit={register}>
			<label class="grid gap-1"
				>Project <input class="field" bind:value={project} required maxlength="120" /></label
			>
			<label class="grid gap-1"
				>Production <input class="field" bind:value={production} required maxlength="120" /></label
			>
			<AppSelect bind:value={app} />
			<label class="grid gap-1">File <input class="field" bind:value={file} required maxlength="400" /></label
			>
			<label class="grid gap-1"
				>Bytes <input class="field" type="number" min="1" bind:value={size} required /></label
			>
			<label class="grid gap-1 md:col-span-2">
				SHA-256 of the file
				<input class="field value" bind:value={digest} required pattern="[0-9a-f]{'{64}'}" maxlength="64" />
			</label>
			<button class="do justify-self-start" disabled={acts.busy}>Register export</button>
		</form>
	{/if}
</div>
