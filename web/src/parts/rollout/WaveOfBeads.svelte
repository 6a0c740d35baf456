<!-- A wave of a rollout: of few seats a track each; of many one track with piles, and a track for each in trouble. -->
<script lang="ts">
	import type { Snippet } from 'svelte';
	import type { Schemas } from '../../api/client';
	import { counted, FEW, piles, toldSingly } from '../../model/rollout/beads';
	import { nameOfWave } from '../../model/rollout/terms';

	type Props = {
		wave: number;
		legs: Schemas['LegOut'][];
		steps: string[];
		headed: boolean;
		onputback?: (() => void) | undefined;
		track: Snippet<[Schemas['LegOut']]>;
	};
	let { wave, legs, steps, headed, onputback, track }: Props = $props();
	let all = $state(false);

	const many = $derived(legs.length > FEW);
	const place = (step: string) => (100 * Math.max(0, steps.indexOf(step))) / (steps.length - 1);
	const singly = $derived(toldSingly(legs, all));
	const told = $derived(counted(legs));
	const isTroubled = (leg: Schemas['LegOut']) => leg.state === 'stopped' || leg.state === 'halted';
</script>

{#if headed || many}
	<li class="quiet mt-3 mb-1 flex items-baseline gap-3" data-wave={wave}>
		<span class="font-semibold">{nameOfWave(wave)}</span>
		{#if many}
			<span>{legs.length} seats: {told}</span>
		{/if}
		{#if headed && onputback}
			<button class="anchor ml-auto" onclick={onputback}
				>Put {wave ? `wave ${wave}` : 'the canaries'} back</button
			>
		{/if}
		{#if many}
			<button
				class="anchor"
				class:ml-auto={!headed || !onputback}
				aria-expanded={all}
				onclick={() => (all = !all)}>{all ? 'Only seats with problems' : `All ${legs.length} seats`}</button
			>
		{/if}
	</li>
{/if}
{#if many}
	<li class="wave">
		<div
			class="way"
			class:troubled={legs.some(isTroubled)}
			role="img"
			aria-label="{nameOfWave(wave)}: {told}"
		>
			<span class="line"></span>
			{#each piles(legs) as pile (pile.step + pile.state)}
				<span class="pile {pile.state}" style:left="{place(pile.step)}%"><b>{pile.count}</b></span>
			{/each}
		</div>
	</li>
{/if}
{#each singly as leg (leg.seat)}{@render track(leg)}{/each}

<style>
	.wave {
		display: grid;
		grid-template-columns: 7rem 1fr 4.2rem;
		padding-block: 0.5rem;
	}
	.way {
		grid-column: 2;
		position: relative;
		height: 1.7rem;
		margin-inline: 0.5rem;
	}
	.line {
		position: absolute;
		top: 50%;
		width: 100%;
		border-top: 1px dotted var(--rule);
	}
	.pile {
		position: absolute;
		top: 50%;
		min-width: 1.7rem;
		height: 1.7rem;
		padding-inline: 0.35rem;
		display: grid;
		place-items: center;
		transform: translate(-50%, -50%);
		border-radius: 0.85rem;
		border: 2.5px solid var(--kelp);
		background: var(--paper);
		font: 0.85rem var(--font-value);
	}
	.settled {
		background: var(--kelp);
		color: var(--paper);
	}
	/* Seats in trouble hang below the track with the mark of their bead: others may stand at the same step. */
	.troubled {
		height: 3.5rem;
	}
	.troubled .line,
	.troubled .pile {
		top: 0.85rem;
	}
	.troubled .stopped,
	.troubled .halted {
		top: 2.6rem;
		grid-auto-flow: column;
		gap: 0.3rem;
		border-color: var(--sienna);
	}
	.troubled .halted {
		border-color: var(--plum);
	}
	.stopped::before {
		content: '';
		width: 0.65rem;
		height: 0.65rem;
		background: var(--sienna);
		clip-path: var(--crossed);
	}
	.halted::before {
		content: '';
		width: 0.3rem;
		height: 0.75rem;
		border: 2px solid var(--plum);
	}
</style>
