<!-- The run sheet, on the phone of whoever is at a seat: set the condition, do what is asked, note it, go on. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { Acts } from '../../state/acts.svelte';
	import { route } from '../../state/shell/route.svelte';
	import DueRun from '../../parts/measure/sheet/DueRun.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const SOON = 3_000; // a seat's agent answers within seconds, and news may be lost on a phone
	const seat = $derived(route.query.get('seat') ?? '');
	const sheet = createQuery(() => ({ ...ask.sheet(number, seat), refetchInterval: SOON }));
	const acts = new Acts('trial');

	const does = {
		take: (run: number) => acts.do(() => write.takeRun(number, seat, run)),
		end: (run: number) => acts.do(() => write.endRun(number, seat, run)),
		leave: (run: number) => acts.do(() => write.leaveRun(number, seat, run)),
		note: (run: number, take: number, seconds: number, dropped: number) =>
			acts.do(() => write.noteRun(number, seat, { run, take, seconds, dropped }))
	};
</script>

<svelte:head><title>Run sheet, {seat} · Normant</title></svelte:head>
<div class="mx-auto max-w-[34rem]">
	<Ask of={sheet}>
		{#snippet children(found)}
			<p class="quiet"><a class="anchor underline" href="/measure/trials/{number}">Trial {number}</a></p>
			<h1 class="text-2xl">{found.seat}</h1>
			<p>{found.title}</p>
			{#if found.seats.length > 1}
				<nav class="my-2 flex flex-wrap gap-x-4" aria-label="Seats of this trial">
					{#each found.seats as other (other.seat)}
						<a
							class="anchor underline"
							aria-current={other.seat === found.seat ? 'page' : undefined}
							href="/measure/trials/{number}/sheet?seat={other.seat}">{other.seat}</a
						>
					{/each}
				</nav>
			{/if}
			{#if found.run}
				{#key found.run.id}<DueRun sheet={found} run={found.run} {does} busy={acts.busy} />{/key}
			{:else}
				<p class="mt-5 text-[1.15rem]" role="status">
					{found.state === 'running'
						? `Nothing to do: ${found.message || 'all runs are finished'}.`
						: 'This trial has ended.'}
				</p>
			{/if}
			<Refused {acts} class="mt-4" />
		{/snippet}
	</Ask>
</div>
