<!-- Ask whoever sits at a seat to close something, or to let the machine start again; it is never forced. -->
<script lang="ts">
	import { api } from '../../api/client';
	import { nameOf } from '../../model/names';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seat: string; apps: string[]; onclose: () => void; onasked: (told: string) => void };
	let { seat, apps, onclose, onasked }: Props = $props();

	let app = $state('');
	let why = $state('');
	let refused = $state('');

	async function ask(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		try {
			await api.POST('/api/v1/seats/{name}/ask', { params: { path: { name: seat } }, body: { app, why } });
			onasked('asked at the seat; the ledger tells what came of it');
			onclose();
		} catch (error) {
			refused = (error as Error).message;
		}
	}
</script>

<Sheet title="Ask at {seat}" {onclose}>
	<form class="grid gap-3" onsubmit={ask}>
		<label class="grid gap-1">
			<span>For what</span>
			<select class="field" bind:value={app}>
				<option value="">to let the machine start again</option>
				{#each apps as one (one)}<option value={one}>to close {nameOf(one)}</option>{/each}
			</select>
		</label>
		<label class="grid gap-1">
			<span>Why</span>
			<input class="field" maxlength="500" bind:value={why} />
		</label>
		<p class="quiet">
			They may put it off three times. Nothing is closed while work is unsaved, and nothing without their
			leave. A machine at which nobody sits and on which nothing is open starts again by itself.
		</p>
		{#if refused}<p class="text-oxblood" role="alert">{refused}</p>{/if}
		<p><button class="do">Ask</button></p>
	</form>
</Sheet>
