<!-- On every screen: that no worker is heard, since when, and what stands still. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { exactly } from '../../model/words/moment';

	const state = createQuery(ask.houseState);
	const found = $derived(state.data);
</script>

{#if found?.worker_silent}
	<p class="silent" role="status" data-worker-silent>
		{found.worker_heard_at
			? `No worker has responded since ${exactly(found.worker_heard_at)}`
			: 'No worker is running'}. Surveys are received but not processed. Waiting:
		{found.stands_still.join('; ')}. Start a worker: <span class="value">manage.py work</span>.
	</p>
{/if}

<style>
	.silent {
		border-bottom: 1px solid var(--oxblood);
		background: var(--sheet);
		color: var(--oxblood);
		padding: 0.5rem 1.5rem;
	}
</style>
