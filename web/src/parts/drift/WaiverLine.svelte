<!-- A waiver: what was accepted where, why, until when; prolonged or ended by hand. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { day, dayAhead, moment } from '../../model/words/moment';
	import { endOfDay } from '../../model/words/zone';
	import { nameOf } from '../../model/words/names';
	import type { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Level from '../level/Level.svelte';

	type Props = { waiver: Schemas['WaiverOut']; acts: Acts };
	let { waiver, acts }: Props = $props();

	const LONGEST_DAYS = 366;
	const A_WEEK = 7;
	const acting = $derived(session.may('waive') && !waiver.ended_at);
	const end = () => acts.do(() => write.endWaiver(waiver.id));

	function prolong(event: SubmitEvent): void {
		event.preventDefault();
		const last = new FormData(event.target as HTMLFormElement).get('last') as string;
		const body = { ends_at: endOfDay(last), seen: waiver.ends_at };
		void acts.do(() => write.prolongWaiver(waiver.id, body));
	}

	function until(): string {
		if (waiver.ended_at) return `ended ${moment(waiver.ended_at)}${BY[waiver.ended_by] ?? ''}`;
		return waiver.ends_at ? `ends ${day(waiver.ends_at)}` : `ends with ${waiver.until_production}`;
	}
	const BY: Record<string, string> = {
		date: ' on its date',
		production: ' with its production',
		person: ' manually'
	};
</script>

<li class="waiver" class:over={waiver.ended_at} data-waiver={waiver.id}>
	<span class="w-20"><Level status={waiver.ended_at ? 'no-norm' : 'waived'} words={until()} /></span>
	<div class="min-w-0">
		<p class="font-semibold">
			{waiver.app ? `${nameOf(waiver.app)} ` : ''}{waiver.title}, {waiver.scope}
		</p>
		<p>{waiver.reason}</p>
		<p class="quiet">
			{waiver.made_by ?? 'the server'}, {moment(waiver.made_at)}{waiver.ended_at
				? ''
				: `; covers ${waiver.covers} ${waiver.covers === 1 ? 'finding' : 'findings'} now`}
		</p>
	</div>
	<span class="whitespace-nowrap" class:text-sienna={waiver.ends_soon}>{until()}</span>
	<span class="flex justify-end gap-2">
		{#if acting}
			<form class="flex gap-2" onsubmit={prolong}>
				<input
					name="last"
					type="date"
					class="field w-auto py-1"
					min={dayAhead(1)}
					max={dayAhead(LONGEST_DAYS - 1)}
					value={dayAhead(A_WEEK, Math.max(Date.now(), Date.parse(waiver.ends_at ?? '') || 0))}
					aria-label="New last day"
				/>
				<button class="may">Extend waiver</button>
			</form>
			<button class="may" onclick={end}>End waiver</button>
		{/if}
	</span>
</li>

<style>
	.waiver {
		display: grid;
		grid-template-columns: 5.5rem minmax(14rem, 1fr) 13rem auto;
		gap: 0.3rem 1.2rem;
		align-items: center;
		border-top: 1px solid var(--hair);
		padding-block: 0.7rem;
	}
	.over {
		color: var(--muted);
	}
	@media (max-width: 900px) {
		.waiver {
			grid-template-columns: 5.5rem 1fr;
		}
	}
</style>
