<!-- What a next rollout could be about: the causes that want a decision, the most useful first. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';

	const FEW = 5;
	const round = createQuery(ask.round);
	const causes = $derived((round.data?.items ?? []).filter((item) => item.kind === 'cause'));
</script>

{#if round.data}
	<section aria-labelledby="still-off">
		<h2 id="still-off" class="text-lg">Still off norm</h2>
		<ul class="mt-1">
			{#each causes.slice(0, FEW) as cause (cause.title)}
				<li class="border-t border-hair py-1.5">
					{cause.title}
					<span class="quiet block">{cause.count} {cause.count === 1 ? 'reading' : 'readings'}</span>
				</li>
			{:else}
				<li class="quiet">Every surveyed seat is in norm.</li>
			{/each}
		</ul>
		{#if causes.length}
			<p class="quiet mt-1">
				{causes.length > FEW ? `And ${causes.length - FEW} more. ` : ''}Correct them on the
				<a class="anchor underline" href="/">Round</a>.
			</p>
		{/if}
	</section>
{/if}
