<!-- Accept findings for a while: where, why, and until when. What it covers is said before. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { dayAhead } from '../../model/words/moment';
	import { endOfDay } from '../../model/words/zone';
	import { nameOf } from '../../model/words/names';
	import { groupsOf } from '../../model/house/rooms';
	import { Acts } from '../../state/acts.svelte';
	import { waiving } from '../../state/waiving.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	const USUAL_DAYS = 14;
	const LONGEST_DAYS = 366;
	const NOT_YET = '';

	const floor = createQuery(ask.floor);
	let where = $state('');
	let until = $state<'date' | 'production'>('date');
	let day = $state(dayAhead(USUAL_DAYS));
	let production = $state('');
	let reason = $state('');
	let why = $state<HTMLTextAreaElement>();
	const acts = new Acts('waiver');

	const groups = $derived(groupsOf(floor.data?.items ?? []));
	const chosen = $derived(groups.find((group) => group.key === where));
	const scope = $derived({
		places: waiving.settings.map(({ setting, app }) => ({ setting, app })),
		seats: chosen ? [] : waiving.seats,
		groups: chosen ? { [chosen.field]: chosen.value } : {}
	});
	const covered = createQuery(() => ({ ...ask.covered(scope), placeholderData: keepPreviousData }));
	const productions = $derived(groups.filter((group) => group.field === 'production'));
	const settings = $derived(waiving.settings.map((s) => (s.app ? `${nameOf(s.app)} ${s.title}` : s.title)));
	const ready = $derived(
		reason.trim() !== NOT_YET && (until === 'date' ? day !== NOT_YET : production !== NOT_YET)
	);
	const says = $derived.by(() => {
		if (covered.error) return covered.error.message;
		if (!covered.data) return 'Checking findings…';
		const { findings, seats } = covered.data;
		if (!findings) return 'No findings covered: the rule is locked, or the setting is in norm now.';
		const found = findings === 1 ? '1 finding' : `${findings} findings`;
		return `Covers ${found} on ${seats.length === 1 ? seats[0] : `${seats.length} seats`}, and new ones until it ends.`;
	});

	async function accept(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const end = until === 'date' ? { ends_at: endOfDay(day) } : { until_production: production };
		if (await acts.do(() => write.waive({ ...scope, until_production: '', reason, ...end }))) waiving.close();
	}
</script>

<Sheet title="Waive" onclose={() => waiving.close()} first={() => why ?? null}>
	<form onsubmit={accept} class="grid gap-4">
		<p class="font-semibold">
			{settings.slice(0, 4).join(', ')}{settings.length > 4 ? `, and ${settings.length - 4} more` : ''}
		</p>
		<label>
			On
			<select class="field mt-1 w-full" bind:value={where}>
				<option value=""
					>{waiving.seats.length > 3
						? `${waiving.seats.length} selected seats`
						: waiving.seats.join(', ')}</option
				>
				{#each groups as group (group.key)}<option value={group.key}>every seat: {group.told}</option>{/each}
			</select>
		</label>
		<fieldset class="flex flex-wrap items-center gap-x-5 gap-y-2">
			<legend class="mb-1">Until</legend>
			<label class="flex items-center gap-2">
				<input type="radio" value="date" bind:group={until} /> the end of
				<input
					class="field w-auto py-1"
					type="date"
					aria-label="Last day"
					min={dayAhead(0)}
					max={dayAhead(LONGEST_DAYS - 1)}
					bind:value={day}
					onfocus={() => (until = 'date')}
				/>
			</label>
			<label class="flex items-center gap-2">
				<input type="radio" value="production" bind:group={until} /> the end of
				<select
					class="field w-auto py-1"
					aria-label="Production"
					bind:value={production}
					onfocus={() => (until = 'production')}
				>
					<option value="">a production</option>
					{#each productions as group (group.key)}<option value={group.value}>{group.value}</option>{/each}
				</select>
			</label>
		</fieldset>
		<label>
			Reason <textarea
				class="field mt-1 w-full"
				rows="2"
				maxlength="500"
				required
				bind:this={why}
				bind:value={reason}></textarea>
		</label>
		<p class="quiet" role="status">{says}</p>
		<Refused {acts} />
		<div class="flex items-center gap-3">
			<button class="do" disabled={acts.busy || !ready || !covered.data?.findings}>Waive</button>
			<button type="button" class="may" onclick={() => waiving.close()}>Cancel</button>
			<span class="quiet">The waiver ends automatically; the Round announces the end.</span>
		</div>
	</form>
</Sheet>
