<!-- Somebody new. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { ROLES, type People } from '../../state/people.svelte';

	type Props = { acts: People };
	let { acts }: Props = $props();

	let name = $state('');
	let role = $state<Schemas['Role']>('viewer');
	let seat = $state('');

	async function add(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.add(name.trim(), role, role === 'editor' ? seat.trim() : '')) [name, seat] = ['', ''];
	}
</script>

<section aria-labelledby="add">
	<h2 id="add" class="mb-2 text-lg">Add person</h2>
	<form class="grid gap-3" onsubmit={add}>
		<label>Name <input class="field mt-1 w-full" required maxlength="60" bind:value={name} /></label>
		<label>
			Role
			<select class="field mt-1 w-full" bind:value={role}>
				{#each ROLES as one (one)}<option>{one}</option>{/each}
			</select>
		</label>
		{#if role === 'editor'}
			<label>Seat <input class="field mt-1 w-full" maxlength="64" bind:value={seat} /></label>
		{/if}
		<button class="do justify-self-start" disabled={acts.busy}>Add person and create link</button>
	</form>
</section>
