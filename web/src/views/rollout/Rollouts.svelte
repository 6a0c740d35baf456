<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import BookedRooms from '../../parts/rollout/BookedRooms.svelte';
	import Packages from '../../parts/rollout/Packages.svelte';
	import StillOff from '../../parts/rollout/StillOff.svelte';
	import StayedPut from '../../parts/rollout/StayedPut.svelte';
	import KeptPlans from '../../parts/plan/KeptPlans.svelte';
	import { moment } from '../../model/words/moment';

	const rollouts = createQuery(ask.rollouts);
</script>

<svelte:head><title>Rollouts · Normant</title></svelte:head>
<h1 class="mb-3 text-2xl">Rollouts</h1>
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_24rem]">
	<div>
		<Ask of={rollouts}>
			{#snippet children(found)}
				<ul>
					{#each found.items as rollout (rollout.id)}
						<li
							class="grid grid-cols-[2rem_minmax(0,1fr)] gap-3 border-t border-hair py-3 md:grid-cols-[2rem_minmax(0,1fr)_5rem_9rem]"
						>
							<span class="value quiet">{rollout.id}</span>
							<div>
								<a class="text-[1.05rem] font-semibold text-ink" href="/rollouts/{rollout.id}"
									>{rollout.title}</a
								>
								<p class="quiet">{rollout.sentence}</p>
							</div>
							<span>{rollout.state}</span>
							<span class="quiet">{rollout.created_by}, {moment(rollout.created_at)}</span>
						</li>
					{:else}
						<li class="quiet border-t border-hair py-6">
							No rollouts yet. Select settings off norm on the <a class="anchor" href="/floor">floor</a>
							and press <kbd>c</kbd>.
						</li>
					{/each}
				</ul>
			{/snippet}
		</Ask>
		<StayedPut />
		<BookedRooms />
		<Packages />
	</div>
	<aside aria-label="Next steps">
		<StillOff />
		<KeptPlans />
	</aside>
</div>
