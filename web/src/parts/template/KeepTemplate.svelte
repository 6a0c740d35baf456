<!-- A template for the house to hold: its file, its name, whose it is. One of the same name takes the other's place. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { names: string[] };
	let { names }: Props = $props();

	const dialects = createQuery(ask.dialects);
	const floor = createQuery(ask.floor);
	const productions = $derived(
		[
			...new Set(
				(floor.data?.items ?? []).flatMap((room) => room.seats.map((seat) => seat.production)).filter(Boolean)
			)
		].sort()
	);
	let name = $state('');
	const acts = new Acts('standard', 'templates');

	async function keep(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const form = event.currentTarget as HTMLFormElement;
		const given = new FormData(form);
		if (!(await acts.do(() => write.keepTemplate(given)))) return;
		form.reset();
		name = '';
	}
</script>

<form class="keep" onsubmit={keep} aria-labelledby="keep">
	<h2 id="keep" class="text-lg">Upload template</h2>
	<label>File <input class="field" type="file" name="file" required /></label>
	<label
		>Name <input
			class="field"
			name="name"
			required
			maxlength="80"
			bind:value={name}
			autocomplete="off"
		/></label
	>
	<label
		>Application
		<select class="field" name="app" required>
			{#each dialects.data?.items ?? [] as dialect (dialect.app)}
				<option value={dialect.app}>{nameOf(dialect.app)}</option>
			{/each}
		</select></label
	>
	<fieldset>
		<legend>Productions that use it <span class="quiet">(none selected: all)</span></legend>
		{#each productions as production (production)}
			<label class="tick"><input type="checkbox" name="productions" value={production} /> {production}</label>
		{/each}
	</fieldset>
	<p class="flex items-center gap-3">
		<button class="do" disabled={acts.busy}
			>{names.includes(name.trim()) ? 'Replace template' : 'Save template'}</button
		>
		<Refused {acts} />
	</p>
</form>

<style>
	.keep {
		border-top: 1px solid var(--rule);
		padding-block: 0.9rem;
		display: grid;
		grid-template-columns: repeat(3, minmax(0, 1fr));
		gap: 0.8rem 1.5rem;
	}
	.keep h2,
	.keep fieldset,
	.keep p {
		grid-column: 1 / -1;
	}
	fieldset {
		display: flex;
		flex-wrap: wrap;
		gap: 0.2rem 1.4rem;
	}
	.tick {
		display: flex;
		gap: 0.5rem;
		align-items: baseline;
	}
	@media (max-width: 700px) {
		.keep {
			grid-template-columns: 1fr;
		}
	}
</style>
