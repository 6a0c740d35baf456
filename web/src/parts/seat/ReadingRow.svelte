<script lang="ts">
	import type { Schemas } from '../../api/client';
	import Level from '../level/Level.svelte';
	import { day, moment } from '../../model/words/moment';
	import ReadingMore from './ReadingMore.svelte';
	import { nameOf } from '../../model/words/names';

	type Props = {
		row: Schemas['RowOut'];
		selected: boolean;
		open: boolean;
		ontoggle?: (() => void) | undefined;
		onopen: () => void;
	};
	let { row, selected, open, ontoggle, onopen }: Props = $props();

	const label = $derived(row.app ? `${row.title}, ${nameOf(row.app)}` : row.title);
	const since = $derived(
		row.since
			? `since ${moment(row.since)}, ${row.cause}${row.entered_by ? ` of ${row.entered_by}` : ''}`
			: ''
	);
	const words = $derived(since ? `${row.words}, ${since}` : row.words);
	const until = $derived(
		row.waiver
			? row.waiver.ends_at
				? `, until ${day(row.waiver.ends_at)}`
				: `, until ${row.waiver.until_production} ends`
			: ''
	);
	const from = $derived.by(() => {
		if (row.status === 'unread') return row.reason;
		if (row.status === 'waived') return `waived: ${row.reason}${until}`;
		return [row.origin, since].filter(Boolean).join('; ');
	});
</script>

<div
	class="row"
	class:whisper={row.status === 'in-norm' || row.status === 'no-norm'}
	data-setting={row.setting}
	data-app={row.app ?? ''}
	data-status={row.status}
>
	<span class="pick">
		{#if ontoggle}
			<input type="checkbox" checked={selected} onchange={ontoggle} aria-label="Select {label}" data-pick />
		{/if}
	</span>
	<button class="name" onclick={onopen} aria-expanded={open} title={row.help}>{label}</button>
	<span class="gauge"
		><Level status={row.status} {words} distance={row.distance} severity={row.severity} /></span
	>
	<span class="value reading">{row.reading}</span>
	<span class="value norm" class:rule={row.rule !== ''} title={row.norm}>{row.norm || 'no norm'}</span>
	<span class="quiet from">{from}</span>
</div>
{#if open}
	<ReadingMore {row} />
{/if}

<style>
	.row {
		display: grid;
		grid-template-columns: 1.6rem minmax(9rem, 1.5fr) 6rem minmax(6rem, 1.1fr) minmax(7rem, 1.3fr) minmax(
				8rem,
				1.4fr
			);
		gap: 0.2rem 0.8rem;
		align-items: center;
		border-top: 1px solid var(--hair);
		padding-block: 0.32rem;
	}
	.whisper .reading,
	.whisper .norm {
		color: var(--muted);
	}
	.name {
		text-align: left;
	}
	.name:hover {
		text-decoration: underline;
	}
	.rule {
		font-size: 0.8rem;
		display: -webkit-box;
		-webkit-line-clamp: 2;
		line-clamp: 2;
		-webkit-box-orient: vertical;
		overflow: hidden;
	}
	.from {
		font-size: 0.85rem;
		line-height: 1.25;
	}
	@media (max-width: 640px) {
		.row {
			grid-template-columns: 1.6rem 1fr 5rem;
		}
		.reading {
			grid-column: 2 / 4;
		}
		.norm,
		.from {
			grid-column: 2 / 4;
		}
	}
</style>
