<!-- What is to be looked through: which kinds of stores, where, how long unused, and towards which target. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import { heardOf } from '../../../model/house/rooms';
	import { purposeWords } from '../../../model/stores/bars';
	import { KINDS, type ClearedKind } from '../../../model/stores/clearing';
	import { Acts } from '../../../state/acts.svelte';
	import { route } from '../../../state/shell/route.svelte';
	import Refused from '../../ui/Refused.svelte';

	const floor = createQuery(ask.floor);
	const productions = createQuery(ask.productions);
	const seats = $derived(heardOf(floor.data?.items ?? []));
	const rooms = $derived((floor.data?.items ?? []).map(({ name }) => name).filter(Boolean));
	const acts = new Acts('clearing');

	const seat = route.query.get('seat');
	let where = $state(seat ? `seat ${seat}` : 'house');
	const of = route.query.get('production') ?? '';
	let kinds = $state<ClearedKind[]>(of ? ['renders', 'backups', 'proxies'] : ['source_cache', 'frame_cache']);
	let days = $state(60);
	let free = $state('');
	let production = $state(of);

	async function begin(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const [scope, ...name] = where.split(' ');
		const seats = scope === 'seat' ? [name.join(' ')] : [];
		const room = scope === 'room' ? name.join(' ') : '';
		await acts.do(async () => {
			const body = { kinds, seats, room, production, unused_days: days, free, quota: '' };
			route.go(`/stores/clearings/${(await write.beginClearing(body)).id}`);
		});
	}
</script>

<form class="grid grid-cols-1 gap-x-12 gap-y-5 lg:grid-cols-[minmax(0,1fr)_22rem]" onsubmit={begin}>
	<fieldset>
		<legend class="mb-1 font-semibold">Store types</legend>
		<div class="grid gap-x-6 gap-y-1.5 md:grid-cols-2">
			{#each KINDS as [kind, what] (kind)}
				<label class="flex items-baseline gap-2">
					<input type="checkbox" value={kind} bind:group={kinds} />
					<span
						><span class="swatch {kind}"></span>
						{purposeWords(kind)} <span class="quiet block">{what}</span></span
					>
				</label>
			{/each}
		</div>
	</fieldset>
	<div class="grid content-start gap-3">
		<label class="grid gap-1">
			Where
			<select class="field" bind:value={where}>
				<option value="house">all seats</option>
				<optgroup label="Room">
					{#each rooms as room (room)}<option value="room {room}">{room}</option>{/each}
				</optgroup>
				<optgroup label="Seat">
					{#each seats as { name } (name)}<option value="seat {name}">{name}</option>{/each}
				</optgroup>
			</select>
		</label>
		<label class="grid gap-1">
			Unused for (days)
			<input class="field" type="number" min="1" max="3650" required bind:value={days} />
		</label>
		<label class="grid gap-1">
			Free space to reach on each volume <span class="quiet">such as 200 GB; empty: no limit</span>
			<input class="field" maxlength="40" bind:value={free} />
		</label>
		<label class="grid gap-1">
			Production
			<select class="field" bind:value={production}>
				<option value="">All ended productions, and files of no known production</option>
				{#each productions.data?.items ?? [] as { name, ended_at } (name)}
					{#if ended_at}<option>{name}</option>{/if}
				{/each}
			</select>
		</label>
		<button class="do justify-self-start" disabled={acts.busy || !kinds.length}>Create clean-up plan</button>
		<Refused {acts} />
	</div>
</form>
