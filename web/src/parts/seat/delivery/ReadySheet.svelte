<!-- Ready to deliver? Every lowered preview setting beside the guard that it needs. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../../api/queries';
	import Exports from './Exports.svelte';
	import Ask from '../../ui/Ask.svelte';
	import Sheet from '../../ui/Sheet.svelte';

	type Props = { seat: string; onclose: () => void };
	let { seat, onclose }: Props = $props();

	const answer = createQuery(() => ask.ready(seat));
	const KINDS = new Map([
		[true, 'holds'],
		[false, 'not met'],
		[null, 'unknown']
	]);
</script>

<Sheet title="Is {seat} ready to deliver?" {onclose}>
	<Ask of={answer}>
		{#snippet children(found)}
			<p
				class="text-[1.05rem] font-semibold"
				class:text-oxblood={found.ready === false}
				data-ready={found.ready}
			>
				{found.sentence}
			</p>
			<ul class="mt-2">
				{#each found.guards as guard (guard.sentence)}
					<li class="grid grid-cols-[minmax(0,1fr)_7rem] gap-3 border-t border-hair py-2">
						<span>{guard.sentence}</span>
						<span class="quiet" class:text-sienna={!guard.holds}>{KINDS.get(guard.holds)}</span>
					</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	<Exports {seat} />
</Sheet>
