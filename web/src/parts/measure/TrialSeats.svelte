<!-- A trial on each of its seats: what it does there now, or how it ended. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';

	type Props = { trial: Schemas['TrialOut'] };
	let { trial }: Props = $props();
	const WORDS: Record<string, string> = {
		done: 'measured; all files restored',
		waiting: 'waiting'
	};
</script>

<h2 class="mt-6 mb-1 text-lg">Seats</h2>
<ul>
	{#each trial.on as { seat, state, message } (seat)}
		<li class="grid grid-cols-[7rem_6rem_minmax(0,1fr)] gap-4 border-t border-hair py-1.5">
			<a class="anchor" href="/seats/{seat}">{seat}</a>
			<span>{state}</span>
			<span class="quiet">{message || (WORDS[state] ?? '')}</span>
		</li>
	{/each}
</ul>
