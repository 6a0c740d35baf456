<!-- What one wants to be told: at once, once a day, of which rooms, by mail or not. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { choice: Schemas['ChoiceOut'] };
	let { choice }: Props = $props();

	const HOURS = Array.from({ length: 24 }, (_, hour) => hour);
	const acts = new Acts('notice', 'choice');
	let kept = $state('');

	async function keep(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const given = new FormData(event.currentTarget as HTMLFormElement);
		const body: Schemas['ChoiceIn'] = {
			mail: (given.get('mail') as string).trim() || null,
			at_once: given.has('at_once'),
			digest: given.has('digest'),
			digest_hour: Number(given.get('hour')),
			rooms: given.getAll('room') as string[]
		};
		kept = '';
		if (await acts.do(() => write.chooseNotices(body))) kept = 'Saved.';
	}
</script>

<form class="grid gap-4" onsubmit={keep} oninput={() => (kept = '')}>
	<label class="tick">
		<input type="checkbox" name="at_once" checked={choice.at_once} />
		<span
			>Immediately, for critical findings
			<span class="quiet block"
				>Findings within a few seconds are sent in one mail; a finding that comes and goes is sent once.</span
			></span
		>
	</label>
	<div>
		<label class="tick">
			<input type="checkbox" name="digest" checked={choice.digest} />
			<span>Daily summary</span>
		</label>
		<label class="ml-7 mt-1 flex items-center gap-2">
			<span>at</span>
			<select
				name="hour"
				class="field w-auto py-1"
				value={String(choice.digest_hour)}
				aria-label="Hour of the day"
			>
				{#each HOURS as hour (hour)}
					<option value={String(hour)}>{String(hour).padStart(2, '0')}:00</option>
				{/each}
			</select>
			<span class="quiet">{choice.time_zone}</span>
		</label>
	</div>
	<fieldset>
		<legend class="mb-1">Rooms <span class="quiet">(none selected: all rooms)</span></legend>
		<div class="rooms">
			{#each choice.every_room as room (room)}
				<label class="tick"
					><input type="checkbox" name="room" value={room} checked={choice.rooms.includes(room)} /><span
						>{room}</span
					></label
				>
			{/each}
		</div>
	</fieldset>
	<label class="grid gap-1">
		<span>Mail address</span>
		<input
			class="field"
			type="email"
			name="mail"
			value={choice.mail ?? choice.mail_asked ?? ''}
			maxlength="254"
			autocomplete="email"
		/>
		{#if !choice.mail_leaves}
			<span class="text-sienna"
				>This server sends no mail. To enable mail, set NORMANT_MAIL on the server.</span
			>
		{/if}
	</label>
	<Refused {acts} />
	<p class="flex items-center gap-3">
		<button class="do">Save</button>
		<span class="quiet" role="status">{kept}</span>
	</p>
</form>

<style>
	.tick {
		display: flex;
		gap: 0.6rem;
		align-items: baseline;
	}
	.rooms {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(9rem, 1fr));
		gap: 0.2rem 1rem;
		max-height: 12rem;
		overflow-y: auto;
	}
</style>
