<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { byWave } from '../../model/rollout/beads';
	import { Acts } from '../../state/acts.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import StayedPut from '../../parts/rollout/StayedPut.svelte';
	import Track from '../../parts/rollout/Track.svelte';
	import WaveOfBeads from '../../parts/rollout/WaveOfBeads.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import ReportLinks from '../../parts/rollout/ReportLinks.svelte';
	import RolloutHead from '../../parts/rollout/RolloutHead.svelte';
	import RolloutActions from '../../parts/rollout/RolloutActions.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const rollout = createQuery(() => ask.rollout(number));
	/** The seat whose changes are shown; undefined until somebody opens or closes one. */
	let selected = $state<string>();
	const acts = new Acts('rollout');

	const onlySeat = $derived(rollout.data?.legs.length === 1 ? rollout.data.legs[0]?.seat : undefined);
	const opened = $derived(selected ?? onlySeat ?? '');
	const inSeveral = $derived((rollout.data?.legs.length ?? 0) > 1);
	const inWaves = $derived(new Set((rollout.data?.legs ?? []).map((leg) => leg.wave)).size > 1);
	const correcting = $derived(session.may('correct'));

	const retry = (seat: string) => acts.do(() => write.retry(number, [seat]));
	const decide = (seat: string, what: 'go-ahead' | 'leave-out') =>
		acts.do(() => write.decide(number, seat, what));
	/** On these seats; none named is all. */
	const putBackOn = (seats: string[]) =>
		acts.do(async () => route.go(`/rollouts/${(await write.putBack(number, seats)).id}`));
</script>

<svelte:head><title>Rollout {number} · Normant</title></svelte:head>
<Ask of={rollout}>
	{#snippet children(found)}
		<div class="flex flex-wrap items-start gap-4">
			<RolloutHead rollout={found} />
			{#if correcting}<RolloutActions rollout={found} {acts} onputback={() => putBackOn([])} />{/if}
		</div>
		{#if found.reason}<p class="mt-2 text-sienna" data-reason>{found.reason}.</p>{/if}
		<Refused {acts} class="mt-2" />
		{#if found.errands}
			<p class="quiet mt-2">
				<a class="anchor underline" href="/errands"
					>{found.errands === 1 ? '1 errand' : `${found.errands} errands`}</a
				>
				of this rollout {found.errands === 1 ? 'is' : 'are'} open.
			</p>
		{/if}
		{#if found.report}<ReportLinks rollout={number} digest={found.report} />{/if}
		<div class="steps quiet" aria-hidden="true">
			{#each found.steps as step, index (step)}
				<span style:left="{(100 * index) / (found.steps.length - 1)}%">{step.replace('_', ' ')}</span>
			{/each}
		</div>
		<ul>
			{#each byWave(found.legs) as [wave, legs] (wave)}
				{@const restorable = legs.filter((leg) => leg.can_put_back).map((leg) => leg.seat)}
				<WaveOfBeads
					{wave}
					{legs}
					steps={found.steps}
					headed={inWaves}
					onputback={correcting && restorable.length ? () => putBackOn(restorable) : undefined}
				>
					{#snippet track(leg)}
						<Track
							rollout={number}
							back={found.kind === 'put_back'}
							{leg}
							steps={found.steps}
							open={opened === leg.seat}
							onretry={correcting && leg.can_retry ? () => retry(leg.seat) : undefined}
							onputback={correcting && leg.can_put_back && inSeveral
								? () => putBackOn([leg.seat])
								: undefined}
							ongoahead={correcting && (leg.objection || leg.put_off)
								? () => decide(leg.seat, 'go-ahead')
								: undefined}
							onleaveout={correcting && leg.state === 'waiting' && inSeveral
								? () => decide(leg.seat, 'leave-out')
								: undefined}
							onopen={() => (selected = opened === leg.seat ? '' : leg.seat)}
						/>
					{/snippet}
				</WaveOfBeads>
			{/each}
		</ul>
		{#if found.kind === 'correct' && found.ended_at}<StayedPut rollout={number} />{/if}
		<p class="quiet mt-4">
			A bead turns solid when the seat's next survey confirms the value. Open a seat to see the file contents
			before and after.
		</p>
	{/snippet}
</Ask>

<style>
	.steps {
		position: relative;
		height: 1.6rem;
		margin: 1.2rem 4.7rem 0.4rem 7.5rem;
		border-bottom: 1px solid var(--hair);
	}
	.steps span {
		position: absolute;
		transform: translateX(-50%);
	}
	@media (max-width: 640px) {
		.steps {
			display: none;
		}
	}
</style>
