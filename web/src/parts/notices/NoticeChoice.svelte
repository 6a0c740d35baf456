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
		if (await acts.do(() => write.chooseNotices(body))) kept = 'Kept.';
	}
</script>

<form class="grid gap-4" onsubmit={keep} oninput={() => (kept = '')}>
	<label class="tick">
		<input type="checkbox" name="at_once" checked={choice.at_once} />
		<span
			>At once, when something must be settled
			<span class="quiet block"
				>One letter for all that comes within seconds; what comes and goes is told once.</span
			></span
		>
	</label>
	<div>
		<label class="tick">
			<input type="checkbox" name="digest" checked={choice.digest} />
			<span>Once a day, how the house stands</span>
		</label>
		<label class="ml-7 mt-1 flex items-center gap-2">
			<span>from</span>
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
		<legend class="mb-1">Of these rooms <span class="quiet">(none marked: of all)</span></legend>
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
		<span>By mail to</span>
		<input
			class="field"
			type="email"
			name="mail"
			value={choice.mail ?? choice.mail_asked ?? ''}
			maxlength="254"
			autocomplete="email"
		/>
		{#if !choice.mail_leaves}
			<span class="text-sienna">No mail leaves this house: whoever runs the server sets NORMANT_MAIL.</span>
		{/if}
	</label>
	<Refused {acts} />
	<p class="flex items-center gap-3">
		<button class="do">Keep this choice</button>
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
