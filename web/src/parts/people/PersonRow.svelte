<!-- One person: what they are to the house, and what may be done about it. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { ROLES, type People } from '../../state/people.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { ago } from '../../model/words/moment';

	type Props = { person: Schemas['PersonOut']; acts: People };
	let { person, acts }: Props = $props();

	const mine = $derived(person.name === session.name);

	function place(event: Event): void {
		const role = (event.currentTarget as HTMLSelectElement).value as Schemas['Role'];
		void acts.change(person, role, role === 'editor' ? person.seat : '');
	}
</script>

<tr class="border-t border-hair align-baseline" class:quiet={!person.active} data-person={person.name}>
	<td class="whitespace-nowrap">{person.name}{mine ? ' (you)' : ''}</td>
	<td>
		<select class="field w-auto py-1" value={person.role} onchange={place} aria-label="Role of {person.name}">
			{#each ROLES as role (role)}<option>{role}</option>{/each}
		</select>
	</td>
	<td>
		{#if person.role === 'editor'}
			<input
				class="field w-28 py-1"
				value={person.seat}
				aria-label="Seat of {person.name}"
				onchange={(event) => acts.change(person, person.role, event.currentTarget.value.trim())}
			/>
		{/if}
	</td>
	<td class="whitespace-nowrap">
		{person.active ? (person.has_password ? ago(person.last_seen_at) : 'no password yet') : 'disabled'}
	</td>
	<td class="value">{person.tokens || ''}</td>
	<td class="acts">
		{#if person.active}
			<button class="act" onclick={() => acts.offerLink(person)}>Create new link</button>
			<button class="act" onclick={() => acts.act(person, 'end-sessions')}>Sign out everywhere</button>
			<button class="act" onclick={() => acts.act(person, 'disable')}>Disable account</button>
		{:else}
			<button class="act" onclick={() => acts.act(person, 'enable')}>Enable account</button>
		{/if}
	</td>
</tr>

<style>
	td {
		padding: 0.35rem 1rem 0.35rem 0;
	}
	.acts {
		display: flex;
		gap: 1rem;
		justify-content: flex-end;
		padding-right: 0;
	}
	.act {
		color: var(--kelp);
		font-size: 0.93rem;
		white-space: nowrap;
	}
	.act:hover {
		text-decoration: underline;
	}
</style>
