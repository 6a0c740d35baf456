<!-- A timeline on one seat: its profile, and what would mend it. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../../api/queries';
	import LoadProfile from './LoadProfile.svelte';
	import Remedies from './Remedies.svelte';
	import Ask from '../../ui/Ask.svelte';

	type Props = { number: number; seat: string; most: number; elsewhere: string[] };
	let { number, seat, most, elsewhere }: Props = $props();

	const on = createQuery(() => ask.timelineOn(number, seat));
</script>

<section class="mt-6" aria-label="On {seat}">
	<h2 class="text-lg"><a class="anchor" href="/seats/{seat}">{seat}</a></h2>
	<Ask of={on}>
		{#snippet children(found)}
			<LoadProfile on={found} {most} />
			{#if found.unmeasured.length}
				<p class="text-sienna">
					Not measured here and not included: {found.unmeasured.join(', ')}.
					<a class="anchor underline" href="/measure/new?kind=choice&seat={seat}">Measure devices</a>
				</p>
			{/if}
			{#if found.remedies.length}
				<h3 class="mt-3 mb-1">Ways to play all of it</h3>
				<Remedies ways={found.remedies} />
				{#if elsewhere.length}
					<p class="quiet mt-2">
						Or use another seat: {elsewhere.slice(0, 6).join(', ')} can play it without changes.
					</p>
				{/if}
			{/if}
		{/snippet}
	</Ask>
</section>
