<!-- One seat's track in a rollout: a bead that travels from waiting to settled. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { stateWord } from '../../model/rollout/beads';
	import { moment } from '../../model/words/moment';
	import PlannedOn from './PlannedOn.svelte';

	type Props = {
		rollout: number;
		back: boolean;
		leg: Schemas['LegOut'];
		steps: string[];
		open: boolean;
		onopen: () => void;
		onretry?: (() => void) | undefined;
		onputback?: (() => void) | undefined;
		ongoahead?: (() => void) | undefined;
		onleaveout?: (() => void) | undefined;
	};
	let { rollout, back, leg, steps, open, onopen, onretry, onputback, ongoahead, onleaveout }: Props =
		$props();

	const place = $derived((100 * Math.max(0, steps.indexOf(leg.step))) / (steps.length - 1));
	const ended = $derived(leg.ended_at ? moment(leg.ended_at) : '');
	const spoken = $derived(
		`${leg.seat}: ${[...new Set([stateWord(leg.state), leg.step.replaceAll('_', ' ')])].join(', ')}${leg.message ? `, ${leg.message}` : ''}`
	);
	const left = $derived(place > 55);
</script>

<li class="track" data-seat={leg.seat} data-state={leg.state} data-step={leg.step}>
	<button class="font-semibold" onclick={onopen} aria-expanded={open}>{leg.seat}</button>
	<div class="way" role="img" aria-label={spoken}>
		<span class="line"></span>
		<span class="gone" style:width="{place}%"></span>
		<span class="bead {back && leg.state === 'settled' ? 'back' : leg.state}" style:left="{place}%"></span>
	</div>
	<span class="value quiet pl-2 whitespace-nowrap">{ended}</span>
	{#if leg.message}
		<p class="says" class:left style:--at="{place}%" aria-hidden="true">{leg.message}</p>
	{/if}
</li>
{#if open}
	<li class="pb-2 pl-28">
		<PlannedOn number={rollout} seat={leg.seat} />
		{#if onretry || onputback || ongoahead || onleaveout}
			{@render answers()}
		{/if}
	</li>
{/if}

{#snippet answers()}
	<p class="flex gap-3">
		{#if ongoahead}<button class="may" onclick={ongoahead}>Continue on {leg.seat} anyway</button>{/if}
		{#if onleaveout}<button class="may" onclick={onleaveout}>Skip {leg.seat}</button>{/if}
		{#if onretry}<button class="may" onclick={onretry}>Retry {leg.seat}</button>{/if}
		{#if onputback}<button class="may" onclick={onputback}>Put {leg.seat} back</button>{/if}
	</p>
{/snippet}

<style>
	.track {
		display: grid;
		grid-template-columns: 7rem 1fr 4.2rem;
		align-items: center;
		padding-block: 0.28rem;
	}
	.track button {
		text-align: left;
	}
	.way {
		position: relative;
		height: 1.1rem;
		margin-inline: 0.5rem;
	}
	.line,
	.gone {
		position: absolute;
		top: 50%;
		left: 0;
		width: 100%;
		border-top: 1px dotted var(--rule);
	}
	.gone {
		border-top: 2.5px solid var(--kelp);
		margin-top: -1px;
		transition: width 0.35s ease;
	}
	.bead {
		position: absolute;
		top: 50%;
		width: 0.95rem;
		height: 0.95rem;
		transform: translate(-50%, -50%);
		border-radius: 50%;
		border: 2.5px solid var(--kelp);
		background: var(--paper);
		transition: left 0.35s ease;
	}
	.settled {
		background: var(--kelp);
	}
	/* Shapes of their own: squares and diamonds speak of readings on levels. */
	.back {
		border-radius: 50% 0 0 50%;
		width: 0.6rem;
		background: var(--kelp);
	}
	.stopped {
		border: 0;
		border-radius: 0;
		background: var(--sienna);
		clip-path: var(--crossed);
	}
	.halted {
		width: 0.35rem;
		border-radius: 0;
		border-color: var(--plum);
	}
	.says {
		grid-column: 2;
		margin-inline: 0.5rem;
		padding-left: var(--at);
		font-size: 0.85rem;
		color: var(--muted);
		line-height: 1.2;
	}
	.says.left {
		padding-left: 0;
		padding-right: calc(100% - var(--at));
		text-align: right;
	}
	@media (max-width: 640px) {
		.track {
			grid-template-columns: 5rem 1fr 4.2rem;
		}
		.says {
			padding: 0;
			text-align: left;
		}
	}
</style>
