<!-- A choice of the applications that dialects are kept for. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';

	type Props = { value: string };
	let { value = $bindable() }: Props = $props();

	const dialects = createQuery(ask.dialects);
	const apps = $derived([...new Set((dialects.data?.items ?? []).map((dialect) => dialect.app))].sort());
</script>

<label class="grid gap-1">
	Application
	<select class="field" bind:value required>
		{#each apps as name (name)}<option>{name}</option>{/each}
	</select>
</label>
