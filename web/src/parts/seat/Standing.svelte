<!-- How a seat stands, for the person who sits there: its levels, what is off norm, and its disks. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import type { Facts, Store } from '../../model/words/facts';
	import { ago } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import Level from '../level/Level.svelte';
	import Ask from '../ui/Ask.svelte';
	import Tank from '../machine/Tank.svelte';

	type Props = { seat: string };
	let { seat }: Props = $props();

	const FEW = 4;
	const record = createQuery(() => ask.seat(seat));
	const off = $derived(
		(record.data?.families ?? []).flatMap((family) => family.rows.filter((row) => row.status === 'off-norm'))
	);
	const titles = $derived(
		Object.fromEntries((record.data?.families ?? []).map((family) => [family.family, family.title]))
	);
	const sentence = $derived(
		off.length ? `${off.length} ${off.length === 1 ? 'setting' : 'settings'} off norm` : 'everything in norm'
	);
</script>

<Ask of={record}>
	{#snippet children(found)}
		<h2 class="text-lg">Status</h2>
		<p class="quiet">{sentence}, read {ago(found.seen_at)}</p>
		<ul class="mt-2">
			{#each found.levels as level (level.family)}
				<li class="grid grid-cols-[5rem_7rem] items-center gap-3">
					<span>{titles[level.family] ?? level.family}</span>
					<Level
						status={level.status}
						words={level.words}
						distance={level.distance}
						severity={level.severity}
						size="row"
					/>
				</li>
			{/each}
		</ul>
		<ul class="mt-2">
			{#each off.slice(0, FEW) as row (row.setting + (row.app ?? ''))}
				<li class="border-t border-hair py-1.5">
					<span class="font-semibold">{row.title}{row.app ? `, ${nameOf(row.app)}` : ''}</span>
					<span class="quiet block">{row.words}</span>
				</li>
			{/each}
		</ul>
		<h2 class="mt-5 text-lg">Disks</h2>
		{#each (found.facts as Facts | null)?.volumes ?? [] as volume (volume.id)}
			<Tank {volume} stores={(found.stores as Store[]).filter((store) => store.volume === volume.id)} />
		{:else}
			<p class="quiet">no survey yet</p>
		{/each}
	{/snippet}
</Ask>
