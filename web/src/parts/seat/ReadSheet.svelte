<!-- A reading by hand, where no dialect can reach: entered at the seat, on a phone too. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seat: string; apps: string[]; onclose: () => void };
	let { seat, apps, onclose }: Props = $props();

	const catalogue = createQuery(ask.catalogue);
	let given = $state({ setting: '', app: '', value: '' });
	const acts = new Acts('seat');

	const setting = $derived((catalogue.data?.items ?? []).find((one) => one.key === given.setting));
	const choices = $derived(
		setting?.kind === 'bool' ? ['true', 'false'] : setting?.kind === 'enum' ? setting.values : []
	);

	async function save(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const app = setting?.scope === 'machine' ? '' : given.app;
		if (await acts.do(() => write.enterReading(seat, { ...given, app }))) onclose();
	}
</script>

<Sheet title="Enter a reading for {seat}" {onclose}>
	<form class="grid gap-3" onsubmit={save}>
		<label
			>Setting
			<select class="field mt-1 w-full" required bind:value={given.setting}>
				<option value="" disabled>select a setting</option>
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
					<option value="">no application</option>
					{#each apps as app (app)}<option value={app}>{nameOf(app)}</option>{/each}
				</select></label
			>
		{/if}
		<label
			>Value {setting?.unit ? `(in ${setting.unit}, or with a unit)` : ''}
			{#if choices.length}
				<select class="field mt-1 w-full" required bind:value={given.value}>
					{#each choices as choice (choice)}<option>{choice}</option>{/each}
				</select>
			{:else}
				<input class="field mt-1 w-full" required maxlength="400" bind:value={given.value} />
			{/if}</label
		>
		<p class="quiet">Saved as read by you now. Valid for 30 days.</p>
		<Refused {acts} />
		<button class="do justify-self-start">Save</button>
	</form>
</Sheet>
