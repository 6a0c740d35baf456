<!-- Room bookings, by their calendars: seats there do not have their turn then. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask, queryClient } from '../../api/queries';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Ask from '../ui/Ask.svelte';
	import Refused from '../ui/Refused.svelte';

	const rooms = createQuery(ask.rooms);
	const acts = new Acts();
	const correcting = $derived(session.may('correct'));

	const act = (what: () => Promise<Schemas['ListOf_RoomBookedOut_']>): Promise<boolean> =>
		acts.do(async () => queryClient.setQueryData(['rollout', 'rooms'], await what()));

	function bring(room: string, event: Event & { currentTarget: HTMLInputElement }): void {
		const file = event.currentTarget.files?.[0];
		event.currentTarget.value = ''; // so that the same file can be brought again
		if (!file) return;
		void act(() => write.keepCalendar(room, file));
	}

	let following = $state('');
	let address = $state('');

	async function follow(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await act(() => write.followCalendar(following, address.trim()))) [following, address] = ['', ''];
	}

	const told = ({ begins, ends }: Schemas['BookingOut']): string =>
		new Date(begins) <= new Date() ? `now, until ${moment(ends)}` : `${moment(begins)} to ${moment(ends)}`;

	const forget = (room: string) => act(() => write.forgetCalendar(room));
</script>

<details class="mt-8">
	<summary class="anchor">Room bookings</summary>
	<p class="quiet my-2">
		Rollouts skip the seats of a room while it is booked. Upload an iCalendar file, or enter the address of
		one; repeated bookings count. Putting settings back does not wait for bookings.
	</p>
	<Refused {acts} class="mb-2" />
	<Ask of={rooms}>
		{#snippet children(found)}
			<ul>
				{#each found.items as room (room.room)}
					<li class="room" data-room={room.room}>
						<span class="font-semibold">{room.room}</span>
						{#if room.file}
							{@render booked(room)}
						{:else}
							<span class="quiet">no calendar: always free</span>
						{/if}
						{#if correcting}
							{@render calendarOf(room)}
						{/if}
						{#if following === room.room}
							<form class="col-span-full flex flex-wrap items-end gap-2" onsubmit={follow}>
								<label class="grid grow gap-1">
									<span class="quiet">Calendar address (fetched every 15 minutes)</span>
									<input class="field" type="url" required maxlength="500" bind:value={address} />
								</label>
								<button class="do">Save</button>
								<button type="button" class="may" onclick={() => (following = '')}>Cancel</button>
							</form>
						{/if}
					</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
</details>

{#snippet booked(room: Schemas['RoomBookedOut'])}
	<span>
		{#each room.next as booking (booking.begins)}
			<span class="value mr-4 whitespace-nowrap">{told(booking)}</span>
		{:else}
			<span class="quiet">free for 2 weeks</span>
		{/each}
		<span class="quiet block">
			{room.hours} hours booked in the next 2 weeks; {room.file}, uploaded by {room.kept_by}, {moment(
				room.kept_at
			)}
		</span>
		{#if room.address}<span class="quiet block">fetched from {room.address}</span>{/if}
		{#if room.fault}<span class="block text-sienna">not fetched: {room.fault}</span>{/if}
	</span>
{/snippet}

{#snippet calendarOf(room: Schemas['RoomBookedOut'])}
	<span class="flex items-start justify-end gap-2">
		<label class="may gap-0">
			{room.file ? 'Replace calendar' : 'Upload calendar'}<span class="sr-only"> of {room.room}</span>
			<input
				type="file"
				accept=".ics,text/calendar"
				class="sr-only"
				onchange={(event) => bring(room.room, event)}
			/>
		</label>
		<button class="may" onclick={() => (following = room.room)}
			>Follow<span class="sr-only"> a calendar of {room.room} by its address</span></button
		>
		{#if room.file}
			<button class="may" onclick={() => forget(room.room)}
				>Forget<span class="sr-only"> the calendar of {room.room}</span></button
			>
		{/if}
	</span>
{/snippet}

<style>
	.room {
		display: grid;
		grid-template-columns: 11rem minmax(0, 1fr) auto;
		gap: 1rem;
		align-items: start;
		border-top: 1px solid var(--hair);
		padding-block: 0.6rem;
	}
	label:focus-within {
		outline: 2px solid var(--kelp);
		outline-offset: 2px;
	}
	@media (max-width: 640px) {
		.room {
			grid-template-columns: 1fr;
			gap: 0.3rem;
		}
	}
</style>
