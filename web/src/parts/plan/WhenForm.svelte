<!-- When a plan starts: now, tonight, or at a time. -->
<script lang="ts">
	import { startOf, type Start, type Terms } from '../../model/rollout/terms';
	import { tonight } from '../../model/rollout/tonight';
	import { clockTime } from '../../model/words/moment';
	import { fieldOfMoment, momentOfField, timeZone } from '../../model/words/zone';

	type Props = { terms: Terms; onterms: (terms: Terms) => void };
	let { terms, onterms }: Props = $props();

	const night = tonight(new Date());
	let picking = $state(false);
	const start = $derived<Start>(picking ? 'later' : startOf(terms, night));

	function select(chosen: Start): void {
		picking = chosen === 'later';
		if (chosen === 'now') onterms({ ...terms, begins: null, ends: null });
		if (chosen === 'tonight') onterms({ ...terms, ...night });
	}
</script>

<fieldset class="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-hair pb-3">
	<legend class="float-left mr-2 font-semibold">When?</legend>
	{#each [['now', 'Now'], ['tonight', `Tonight, ${clockTime(night.begins)} to ${clockTime(night.ends)}`], ['later', 'At a time']] as const as [value, words] (value)}
		<label class="flex items-baseline gap-2">
			<input type="radio" name="when" {value} checked={start === value} onchange={() => select(value)} />
			{words}
		</label>
	{/each}
	{#if start === 'later'}
		<input
			class="field w-auto py-1"
			type="datetime-local"
			aria-label="Start"
			value={fieldOfMoment(terms.begins)}
			onchange={(event) => onterms({ ...terms, begins: momentOfField(event.currentTarget.value) })}
		/>
	{/if}
	<span class="quiet text-sm">Times: {timeZone()}</span>
</fieldset>
