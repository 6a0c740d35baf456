<!-- What can be done with a rollout now: each is offered only where it would do something. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { read } from '../../api/queries';
	import type { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import BeginNow from './BeginNow.svelte';

	type Props = { rollout: Schemas['RolloutOut']; acts: Acts; onputback: () => void };
	let { rollout, acts, onputback }: Props = $props();

	const moving = $derived(rollout.legs.some((leg) => leg.state === 'moving'));
	const act = (what: Parameters<typeof write.toRollout>[1]) =>
		acts.do(() => write.toRollout(rollout.id, what));
	const beginNow = (why: string) => acts.do(() => write.beginNow(rollout.id, why));
	const planAgain = () =>
		acts.do(async () => {
			const plan = await read.planAgain(rollout.id);
			if (!plan.findings.length) throw new Error('Everything in this rollout is in norm.');
			correction.plan(plan.findings, plan.terms, { title: plan.name });
		});
</script>

<div class="ml-auto flex flex-wrap gap-2">
	{#if rollout.can_begin_now}<BeginNow onbegin={beginNow} />{/if}
	{#if rollout.can_go_on}
		<button class="may" onclick={() => act('go-on')}
			>{rollout.behind_canaries ? 'Continue without canaries' : 'Start next wave now'}</button
		>
	{/if}
	{#if rollout.can_approve}<button class="do" onclick={() => act('approve')}>Approve rollout</button>{/if}
	{#if rollout.state === 'running'}
		<button class="may" onclick={() => act('halt')}>Halt rollout</button>
	{:else if rollout.state === 'proposed'}
		<button class="may" onclick={() => act('halt')}>Withdraw rollout</button>
	{/if}
	{#if rollout.can_resume}<button class="do" onclick={() => act('resume')}>Resume rollout</button>{/if}
	{#if rollout.kind === 'correct' && rollout.ended_at}
		<button class="may" onclick={planAgain}>Create new plan</button>
	{/if}
	{#if rollout.can_put_back}
		<button class="may" disabled={moving} onclick={onputback}>Put everything back</button>
	{/if}
</div>
