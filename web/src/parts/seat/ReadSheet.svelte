<!-- A reading by hand, where no dialect can reach: entered at the seat, on a phone too. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { api } from '../../api/client';
	import { ask, queryClient } from '../../api/queries';
	import { nameOf } from '../../model/names';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seat: string; apps: string[]; onclose: () => void };
	let { seat, apps, onclose }: Props = $props();

	const catalogue = createQuery(ask.catalogue);
	let given = $state({ setting: '', app: '', value: '' });
	let refused = $state('');

	const setting = $derived((catalogue.data?.items ?? []).find((one) => one.key === given.setting));
	const choices = $derived(
		setting?.kind === 'bool' ? ['true', 'false'] : setting?.kind === 'enum' ? setting.values : []
	);

	async function save(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		try {
			const app = setting?.scope === 'machine' ? '' : given.app;
			const body = { ...given, app };
			await api.POST('/api/v1/seats/{name}/readings', { params: { path: { name: seat } }, body });
			await queryClient.invalidateQueries({ queryKey: ['seat'] });
			onclose();
		} catch (error) {
			refused = (error as Error).message;
		}
	}
</script>

<Sheet title="Enter a reading of {seat}" {onclose}>
	<form class="grid gap-3" onsubmit={save}>
		<label
			>Setting
			<select class="field mt-1 w-full" required bind:value={given.setting}>
				<option value="" disabled>choose one</option>
				{#each catalogue.data?.items ?? [] as one (one.key)}
					<option value={one.key}>{one.family}: {one.title}</option>
				{/each}
			</select></label
		>
		{#if setting}<p class="quiet">{setting.help}</p>{/if}
		{#if setting && setting.scope !== 'machine'}
			<label
				>Application
				<select class="field mt-1 w-full" bind:value={given.app}>
					<option value="">none in particular</option>
					{#each apps as app (app)}<option value={app}>{nameOf(app)}</option>{/each}
				</select></label
			>
		{/if}
		<label
			>What it says {setting?.unit ? `(in ${setting.unit}, or with a unit)` : ''}
			{#if choices.length}
				<select class="field mt-1 w-full" required bind:value={given.value}>
					{#each choices as choice (choice)}<option>{choice}</option>{/each}
				</select>
			{:else}
				<input class="field mt-1 w-full" required maxlength="400" bind:value={given.value} />
			{/if}</label
		>
		<p class="quiet">It is marked as read by you, now, and counts for thirty days.</p>
		{#if refused}<p class="text-oxblood" role="alert">{refused}</p>{/if}
		<button class="do justify-self-start">Keep it</button>
	</form>
</Sheet>
