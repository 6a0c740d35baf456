<!-- The production and the application whose project was delivered. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import type { Schemas } from '../../../api/client';
	import type { Acts } from '../../../state/acts.svelte';
	import AppSelect from '../AppSelect.svelte';

	type Props = { row: Schemas['DeliveredOut']; acts: Acts; onclose: () => void };
	let { row, acts, onclose }: Props = $props();

	// svelte-ignore state_referenced_locally (the form begins with what is there, and is the person's from then on)
	let production = $state(row.production);
	// svelte-ignore state_referenced_locally (as above)
	let app = $state(row.project_app);

	async function assign(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.do(() => write.assignDelivery(row.id, { production, app }))) onclose();
	}
</script>

<form class="mt-2 flex flex-wrap items-end gap-3" onsubmit={assign}>
	<label class="grid gap-1">
		Production <input class="field w-64" bind:value={production} required maxlength="120" />
	</label>
	<AppSelect bind:value={app} />
	<button class="do" disabled={acts.busy}>Assign delivery</button>
	<button class="may" type="button" onclick={onclose}>Cancel</button>
</form>
