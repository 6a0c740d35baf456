<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { session } from '../../state/shell/session.svelte';
	import Level from '../level/Level.svelte';
	import { day, moment } from '../../model/words/moment';
	import DraftOfTrial from './DraftOfTrial.svelte';
	import RoundFindings from './RoundFindings.svelte';

	type Props = {
		item: Schemas['RoundItemOut'];
		open: boolean;
		correcting: boolean;
		onopen: () => void;
		onpoint: (here: boolean) => void;
		oncorrect: () => void;
		onwaive?: (() => void) | undefined;
	};
	let { item, open, correcting, onopen, onpoint, oncorrect, onwaive }: Props = $props();

	const tried = $derived(item.findings.find((finding) => finding.tried)?.tried);
	const correctable = $derived(item.settings.some((spoken) => spoken.remote));
	const single = $derived(item.seat_count === 1 ? item.seats[0] : '');
</script>

<li
	class="item"
	onmouseenter={() => onpoint(true)}
	onmouseleave={() => onpoint(false)}
	onfocusin={() => onpoint(true)}
	onfocusout={() => onpoint(false)}
	data-kind={item.kind}
>
	<div class="head">
		<span class="w-24 shrink-0">
			{#if item.status}
				<Level status={item.status} words={item.words} distance={item.distance} severity={item.severity} />
			{:else}
				<Level status="unread" words={item.words} />
			{/if}
		</span>
		<div class="min-w-0">
			<button class="text-left text-[1.05rem] font-semibold" onclick={onopen} aria-expanded={open}
				>{item.title}</button
			>
			<p class="quiet">
				{item.since ? item.words.replace(/\.$/, '') : item.words}{item.since
					? item.kind === 'waiver'
						? `; ends ${day(item.since)}`
						: `, since ${moment(item.since)}`
					: ''}
			</p>
			{#if item.findings.length && !correctable}<p class="quiet">Needs a person at the seat.</p>{/if}
			{#if tried}<p class="text-sm text-sienna">Tried: {tried}.</p>{/if}
		</div>
		<span class="value quiet ml-auto whitespace-nowrap">{single || `${item.seat_count} seats`}</span>
		<span class="flex gap-2">
			{#if correctable && correcting}
				<button class="do" onclick={oncorrect}>Correct</button>
			{:else if item.findings.length && correcting}
				<button class="may" onclick={oncorrect}>Create errand</button>
			{/if}
			{#if onwaive && item.findings.length}
				<button class="may" onclick={onwaive}>Waive</button>
			{/if}
			{#if item.waiver}
				<a class="may" href="/drift/waivers">Open waiver</a>
			{:else if item.trial}
				<a class="may" href="/measure/trials/{item.trial}">Open trial</a>
				{#if item.kind === 'verdict' && session.may('publish')}<DraftOfTrial trial={item.trial} />{/if}
			{:else if item.rollout}
				<a class="may" href="/rollouts/{item.rollout}">Open rollout</a>
			{:else if item.clearing}
				<a class="may" href="/stores/clearings/{item.clearing}">Open plan</a>
			{:else if item.production}
				<a class="may" href="/stores/clearings?production={encodeURIComponent(item.production)}"
					>Plan clean-up</a
				>
			{:else if item.kind === 'care'}
				<a class="may" href="/stores/care">Open automatic clean-up</a>
			{:else if item.kind === 'delivery'}
				<a class="may" href="/stores/deliveries">Open deliveries</a>
			{:else if item.volume}
				<a class="may" href="/stores?open={item.seats[0]}/{item.volume}">Open volume</a>
			{:else if single}
				<a class="may" href="/seats/{single}">Open seat</a>
			{/if}
		</span>
	</div>
	{#if open}<RoundFindings {item} />{/if}
</li>

<style>
	.item {
		border-top: 1px solid var(--hair);
		padding-block: 0.75rem;
	}
	.head {
		display: flex;
		gap: 1.1rem;
		align-items: flex-start;
	}
	@media (max-width: 640px) {
		.head {
			flex-wrap: wrap;
		}
	}
</style>
