<!-- Who there is: their role and seat, when they were last here; added, changed, kept out. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import AddPerson from '../../parts/people/AddPerson.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import PersonRow from '../../parts/people/PersonRow.svelte';
	import { People } from '../../state/people.svelte';

	const people = createQuery(ask.people);
	const acts = new People();
</script>

<svelte:head><title>People · Normant</title></svelte:head>
<h1 class="mb-1 text-2xl">People</h1>
<p class="quiet mb-4 max-w-[46em]">
	Everyone who can sign in. A link sets a password once, within 24 hours. Disabling an account ends its
	sessions, tokens and calendar feeds at once.
</p>
{#if acts.refused}<p class="mb-3 text-oxblood" role="alert">{acts.refused}</p>{/if}
{#if acts.link}
	<p class="mb-4 border border-hair bg-sheet p-3" data-link>
		Send this link to {acts.link.name} securely. It is shown only once and works once within {acts.link
			.valid_hours} hours:
		<span class="value mt-1 block break-all">{location.origin}/set-password#{acts.link.link}</span>
	</p>
{/if}
<div class="grid gap-8 xl:grid-cols-[minmax(0,1fr)_19rem]">
	<Ask of={people}>
		{#snippet children(found)}
			<div class="overflow-x-auto">
				<table class="w-full text-left">
					<thead class="quiet">
						<tr><th>name</th><th>role</th><th>seat</th><th>last seen</th><th>tokens</th><th></th></tr>
					</thead>
					<tbody>
						{#each found.items as person (person.name)}<PersonRow {person} {acts} />{/each}
					</tbody>
				</table>
			</div>
		{/snippet}
	</Ask>
	<AddPerson {acts} />
</div>

<style>
	th {
		font-weight: normal;
		padding: 0.3rem 1rem 0.3rem 0;
	}
</style>
