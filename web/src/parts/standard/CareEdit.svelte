<!-- A sentence of standing care with gaps: what is cleared, unused for how long, when, and at most how much. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { purposeWords } from '../../model/stores/bars';
	import { Acts } from '../../state/acts.svelte';
	import Faults from './Faults.svelte';
	import { careGiven, careOf, DAYS, KINDS } from '../../model/stores/clearing';

	type Props = {
		fields: Record<string, unknown>;
		onsave: (fields: Schemas['RuleEditIn']['fields']) => Promise<void>;
		onremove?: () => Promise<void>;
		onclose: () => void;
	};
	let { fields, onsave, onremove, onclose }: Props = $props();

	// svelte-ignore state_referenced_locally (the form begins with the sentence as it was when it was opened)
	const care = $state(careOf(fields));

	const acts = new Acts();

	function save(event: SubmitEvent): void {
		event.preventDefault();
		void acts.do(() => onsave(careGiven(care)));
	}
</script>

<form class="gaps" onsubmit={save}>
	<label class="w-full"
		><span>name</span>
		<input
			class="field grow"
			required
			maxlength="80"
			bind:value={care.name}
			aria-label="Name"
			placeholder="Old frame caches"
		/></label
	>
	<fieldset class="flex w-full flex-wrap gap-x-4 gap-y-1">
		<legend class="sr-only">Stores</legend>
		{#each KINDS as [kind] (kind)}
			<label><input type="checkbox" value={kind} bind:group={care.kinds} /> {purposeWords(kind)}</label>
		{/each}
	</fieldset>
	<label
		><span>files unused for</span>
		<input
			class="field value shortest"
			type="number"
			min="1"
			max="3650"
			required
			bind:value={care.unused_days}
			aria-label="Days unused"
		/>
		<span>days are deleted</span></label
	>
	<label
		><span>each</span>
		<select class="field short" bind:value={care.each} aria-label="Each">
			{#each DAYS as day (day)}<option value={day}>{day}</option>{/each}
		</select></label
	>
	<label
		><span>from</span><input
			class="field value shortest"
			pattern="([01][0-9]|2[0-3]):[0-5][0-9]"
			maxlength="5"
			required
			bind:value={care.opens}
			aria-label="From"
		/></label
	>
	<label
		><span>to</span><input
			class="field value shortest"
			pattern="([01][0-9]|2[0-3]):[0-5][0-9]"
			maxlength="5"
			required
			bind:value={care.closes}
			aria-label="To"
		/></label
	>
	<label
		><span>at most</span>
		<input
			class="field value short"
			required
			bind:value={care.most}
			aria-label="At most"
			placeholder="500 GB"
		/>
		<span>per seat</span></label
	>
	<label
		><span>until free on each volume:</span>
		<input
			class="field value short"
			bind:value={care.free}
			aria-label="Until free"
			placeholder="no limit"
		/></label
	>
	<label class="w-full"
		><span>because</span>
		<input class="field grow" bind:value={care.because} aria-label="Because" maxlength="400" /></label
	>
	<Faults {acts} />
	<div class="flex w-full gap-3">
		<button class="do" disabled={!care.kinds.length || acts.busy}>Apply</button>
		<button type="button" class="may" onclick={onclose}>Cancel</button>
		{#if onremove}<button type="button" class="may" onclick={() => acts.do(onremove)}>Delete sentence</button
			>{/if}
	</div>
</form>
