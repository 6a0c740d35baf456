<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { api, data } from '../api/client';
	import { ask, queryClient } from '../api/queries';
	import Ask from '../parts/ui/Ask.svelte';
	import { moment } from '../model/moment';
	import { byWave } from '../model/beads';
	import StayedPut from '../parts/rollout/StayedPut.svelte';
	import Track from '../parts/rollout/Track.svelte';
	import WaveOfBeads from '../parts/rollout/WaveOfBeads.svelte';
	import { correction } from '../state/correction.svelte';
	import { route } from '../state/route.svelte';
	import { session } from '../state/session.svelte';

	type Props = { number: number };
	let { number }: Props = $props();

	const STATES = {
		proposed: 'It waits for a second person to approve it.',
		running: '',
		halted: 'This rollout is halted.',
		finished: 'This rollout is finished.'
	};
	const REPORTS = ['html', 'pdf', 'csv', 'json'];

	const rollout = createQuery(() => ask.rollout(number));
	let opened = $state('');
	let refused = $state('');

	const path = $derived({ params: { path: { number } } });
	const moving = $derived((rollout.data?.legs ?? []).some((leg) => leg.state === 'moving'));
	const inSeveral = $derived((rollout.data?.legs.length ?? 0) > 1);
	const inWaves = $derived(new Set((rollout.data?.legs ?? []).map((leg) => leg.wave)).size > 1);
	const correcting = $derived(session.may('correct'));

	async function act(what: () => Promise<unknown>): Promise<void> {
		try {
			await what();
			refused = '';
			await queryClient.invalidateQueries({ queryKey: ['rollout'] });
		} catch (error) {
			refused = (error as Error).message;
		}
	}

	const approve = () => act(() => api.POST('/api/v1/rollouts/{number}/approve', path));
	const halt = () => act(() => api.POST('/api/v1/rollouts/{number}/halt', path));
	const resume = () => act(() => api.POST('/api/v1/rollouts/{number}/resume', path));
	const retry = (seat: string) =>
		act(() => api.POST('/api/v1/rollouts/{number}/retry', { ...path, body: { seats: [seat] } }));
	const putBackOn = (seats: string[]) =>
		act(async () => {
			const body = { seats };
			const made = await data(api.POST('/api/v1/rollouts/{number}/put-back', { ...path, body }));
			route.go(`/rollouts/${made.id}`);
		});
	const decide = (seat: string, what: 'go-ahead' | 'leave-out') =>
		act(() =>
			api.POST(`/api/v1/rollouts/{number}/seats/{name}/${what}`, {
				params: { path: { number, name: seat } }
			})
		);
	const goOn = () => act(() => api.POST('/api/v1/rollouts/{number}/go-on', path));
	const planAgain = () =>
		act(async () => {
			const plan = await data(api.GET('/api/v1/rollouts/{number}/again', path));
			if (!plan.findings.length) throw new Error('All that it was about is in norm.');
			correction.plan(plan.findings, plan.terms, { title: plan.name });
		});
	const putBack = () =>
		act(async () => {
			const made = await data(api.POST('/api/v1/rollouts/{number}/put-back', path));
			route.go(`/rollouts/${made.id}`);
		});
</script>

<svelte:head><title>Rollout {number} · Normant</title></svelte:head>
<Ask of={rollout}>
	{#snippet children(found)}
		<div class="flex flex-wrap items-start gap-4">
			<div>
				<h1 class="text-2xl">{found.title}</h1>
				<p class="word mt-1" role="status" data-sentence>
					{found.sentence}
					{found.state === 'running' ? '' : STATES[found.state]}
				</p>
				<p class="quiet">
					{found.created_by}, {moment(found.created_at)}
					{#if found.approved_by}· approved by {found.approved_by}{/if}
					{#if found.of}· puts back <a class="anchor" href="/rollouts/{found.of}">rollout {found.of}</a>{/if}
					{#if found.put_back_by}· put back by <a class="anchor" href="/rollouts/{found.put_back_by}"
							>rollout {found.put_back_by}</a
						>{/if}
				</p>
			</div>
			{#if correcting}
				<div class="ml-auto flex gap-2">
					{#if found.can_go_on}<button class="may" onclick={goOn}>Next wave now</button>{/if}
					{#if found.can_approve}<button class="do" onclick={approve}>Approve</button>{/if}
					{#if found.state === 'running'}<button class="may" onclick={halt}>Halt</button>{/if}
					{#if found.state === 'proposed'}<button class="may" onclick={halt}>Withdraw</button>{/if}
					{#if found.can_resume}<button class="do" onclick={resume}>Resume</button>{/if}
					{#if found.kind === 'correct' && found.ended_at}
						<button class="may" onclick={planAgain}>Plan it again</button>
					{/if}
					{#if found.can_put_back}
						<button class="may" disabled={moving} onclick={putBack}>Put back</button>
					{/if}
				</div>
			{/if}
		</div>
		{#if found.reason}<p class="mt-2 text-sienna" data-reason>{found.reason}.</p>{/if}
		{#if refused}<p class="mt-2 text-oxblood" role="alert">{refused}</p>{/if}
		{#if found.errands}
			<p class="quiet mt-2">
				<a class="anchor underline" href="/errands"
					>{found.errands === 1 ? 'An errand' : `${found.errands} errands`}</a
				>
				of it {found.errands === 1 ? 'waits' : 'wait'} for a person.
			</p>
		{/if}
		{#if found.report}
			<p class="quiet mt-2">
				The report, whose hash the ledger holds, as
				{#each REPORTS as kind (kind)}
					<a
						class="anchor ml-1.5 underline"
						href="/api/v1/rollouts/{number}/report?form={kind}"
						target={kind === 'html' || kind === 'pdf' ? '_blank' : undefined}
						rel="noreferrer"
						download={kind === 'csv' || kind === 'json' ? '' : undefined}>{kind.toUpperCase()}</a
					>
				{/each}
				<span class="value" title={found.report}>{found.report.slice(0, 8)}</span>
			</p>
		{/if}
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
							onopen={() => (opened = opened === leg.seat ? '' : leg.seat)}
						/>
					{/snippet}
				</WaveOfBeads>
			{/each}
		</ul>
		{#if found.kind === 'correct' && found.ended_at}<StayedPut rollout={number} />{/if}
		<p class="quiet mt-4">
			A bead settles when the seat's next survey finds the reading in norm, not when the order was sent. Open
			a seat for the native text before and after.
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
