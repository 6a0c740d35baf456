<!-- Search seats, views, applications, rules, rollouts, trials, timelines, projects, errands and people. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { route } from '../../state/shell/route.svelte';
	import { roomsOf } from '../../model/house/rooms';
	import Sheet from '../ui/Sheet.svelte';
	import { Findable } from './findable.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	const VIEWS = [
		{ name: 'Round', about: 'what needs a decision', address: '/' },
		{ name: 'Floor', about: 'rooms and seats', address: '/floor' },
		{ name: 'Drift', about: 'all settings of all seats', address: '/drift' },
		{ name: 'Waivers', about: 'accepted deviations', address: '/drift/waivers' },
		{ name: 'Standard', about: 'layers and rules', address: '/standard' },
		{ name: 'Dialects', about: 'how applications keep their preferences', address: '/dialects' },
		{ name: 'Stores', about: 'volumes and when they fill up', address: '/stores' },
		{ name: 'Clean-ups', about: 'clean-up plans', address: '/stores/clearings' },
		{
			name: 'Deliveries',
			about: 'delivered projects and ended productions',
			address: '/stores/deliveries'
		},
		{ name: 'Measure', about: 'trials of settings', address: '/measure' },
		{ name: 'Rollouts', about: 'corrections in progress', address: '/rollouts' },
		{ name: 'Errands', about: 'work at seats', address: '/errands' },
		{ name: 'Ledger', about: 'who did what', address: '/ledger' }
	];
	const MOST = 10;

	const floor = createQuery(ask.floor);
	const findable = new Findable();
	let wanted = $state('');
	let chosen = $state(0);
	let field = $state<HTMLInputElement>();

	const places = $derived([
		...roomsOf(floor.data?.items ?? []).flatMap((room) =>
			room.seats.map((seat) => ({
				name: seat.name,
				about: [seat.role, room.name, seat.production].filter(Boolean).join(', '),
				address: `/seats/${encodeURIComponent(seat.name)}`
			}))
		),
		...VIEWS,
		...findable.places
	]);
	const words = $derived(wanted.toLowerCase().split(/\s+/).filter(Boolean));
	const found = $derived(
		places
			.filter((place) => words.every((word) => `${place.name} ${place.about}`.toLowerCase().includes(word)))
			.slice(0, MOST)
	);

	function go(address: string): void {
		route.go(address);
		onclose();
	}

	function press(event: KeyboardEvent): void {
		const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
		const place = found[chosen];
		if (event.key === 'Enter' && place) go(place.address);
		if (!step || !found.length) return;
		event.preventDefault();
		chosen = (chosen + step + found.length) % found.length;
	}
</script>

<Sheet title="Find" {onclose} first={() => field ?? null}>
	<input
		class="field w-full"
		placeholder="seat, room, application, rule, rollout, trial, project, errand …"
		aria-label="Find"
		aria-controls="found"
		bind:this={field}
		bind:value={wanted}
		oninput={() => (chosen = 0)}
		onkeydown={press}
	/>
	<ul id="found" class="mt-3">
		{#each found as place, index (`${place.address} ${place.name}`)}
			<li>
				<button
					class="flex w-full gap-3 px-2 py-1.5 text-left"
					class:bg-wash={index === chosen}
					onclick={() => go(place.address)}
				>
					<strong class="min-w-0 flex-1 truncate">{place.name}</strong>
					<span class="quiet shrink-0">{place.about}</span>
				</button>
			</li>
		{:else}
			<li class="quiet px-2 py-1.5">No matches.</li>
		{/each}
	</ul>
</Sheet>
