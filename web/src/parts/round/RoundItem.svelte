<script lang="ts">
	import type { Schemas } from '../../api/client';
	import Level from '../level/Level.svelte';
	import { day, language, moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';

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
						? `; it ends ${day(item.since)}`
						: `, since ${moment(item.since)}`
					: ''}
			</p>
			{#if item.findings.length && !correctable}<p class="quiet">
					No order can settle this: it needs hands at the seat.
				</p>{/if}
			{#if tried}<p class="text-sm text-sienna">Tried: {tried}.</p>{/if}
		</div>
		<span class="value quiet ml-auto whitespace-nowrap">{single || `${item.seat_count} seats`}</span>
		<span class="flex gap-2">
			{#if correctable && correcting}
				<button class="do" onclick={oncorrect}>Correct</button>
			{:else if item.findings.length && correcting}
				<button class="may" onclick={oncorrect}>Write an errand</button>
			{/if}
			{#if onwaive && item.findings.length}
				<button class="may" onclick={onwaive}>Waive</button>
			{/if}
			{#if item.waiver}
				<a class="may" href="/drift/waivers">Look at the waiver</a>
			{:else if item.rollout}
				<a class="may" href="/rollouts/{item.rollout}">Look at the rollout</a>
			{:else if single}
				<a class="may" href="/seats/{single}">Look at the seat</a>
			{/if}
		</span>
	</div>
	{#if open}
		<div class="opened">
			{#if item.because}<p class="mb-2">{item.because}</p>{/if}
			{#if item.findings.length}
				<table class="w-full text-left">
					<thead class="quiet"
						><tr><th>seat</th><th>setting</th><th>reading</th><th>house wants</th><th>to put it right</th></tr
						></thead
					>
					<tbody>
						{#each item.findings as finding (finding.id)}
							<tr class="align-top">
								<td class="whitespace-nowrap"
									><a class="anchor" href="/seats/{finding.seat}">{finding.seat}</a></td
								>
								<td>{finding.title}{finding.app ? `, ${nameOf(finding.app)}` : ''}</td>
								<td class="value">{finding.reading}</td>
								<td class="value">{finding.norm}</td>
								<td class="value">{finding.fix}</td>
							</tr>
						{/each}
					</tbody>
				</table>
			{/if}
			{#if item.count > item.findings.length}
				<p class="quiet mt-2">
					The first {item.findings.length} of {item.count.toLocaleString(language)};
					<a class="anchor underline" href="/drift?rows=causes">the grid</a>
					shows all.
				</p>
			{/if}
			{#if !item.findings.length}<p>{item.words}</p>{/if}
		</div>
	{/if}
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
	.opened {
		margin: 0.6rem 0 0 7.1rem;
		border: 1px solid var(--hair);
		background: var(--sheet);
		padding: 0.6rem 0.8rem;
		overflow-x: auto;
	}
	th {
		font-weight: normal;
	}
	td,
	th {
		padding: 0.2rem 0.9rem 0.2rem 0;
		font-size: 0.9rem;
	}
	@media (max-width: 640px) {
		.head {
			flex-wrap: wrap;
		}
		.opened {
			margin-left: 0;
		}
	}
</style>
