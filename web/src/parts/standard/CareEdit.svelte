<!-- A sentence of standing care with gaps: what is cleared, unused for how long, when, and at most how much. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { purposeWords } from '../../model/stores/bars';
	import { careGiven, careOf, DAYS, KINDS } from '../../model/stores/clearing';

	type Props = {
		fields: Record<string, unknown>;
		onsave: (fields: Schemas['RuleEditIn']['fields']) => void;
		onremove?: () => void;
		onclose: () => void;
	};
	let { fields, onsave, onremove, onclose }: Props = $props();

	// svelte-ignore state_referenced_locally (the form begins with the sentence as it was when it was opened)
	const care = $state(careOf(fields));

	function save(event: SubmitEvent): void {
		event.preventDefault();
		onsave(careGiven(care));
	}
</script>

<form class="gaps" onsubmit={save}>
	<label class="w-full"
		><span>called</span>
		<input
			class="field grow"
			required
			maxlength="80"
			bind:value={care.name}
			aria-label="Its name"
			placeholder="Old frame caches"
		/></label
	>
	<fieldset class="flex w-full flex-wrap gap-x-4 gap-y-1">
		<legend class="sr-only">Which stores</legend>
		{#each KINDS as [kind] (kind)}
			<label><input type="checkbox" value={kind} bind:group={care.kinds} /> {purposeWords(kind)}</label>
		{/each}
	</fieldset>
	<label
		><span>what nobody used for</span>
		<input
			class="field value shortest"
			type="number"
			min="1"
			max="3650"
			required
			bind:value={care.unused_days}
			aria-label="Days unused"
		/>
		<span>days goes</span></label
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
		<span>on a seat</span></label
	>
	<label
		><span>until there are free on each volume</span>
		<input
			class="field value short"
			bind:value={care.free}
			aria-label="Until free"
			placeholder="all that may go"
		/></label
	>
	<label class="w-full"
		><span>because</span>
		<input class="field grow" bind:value={care.because} aria-label="Because" maxlength="400" /></label
	>
	<div class="flex w-full gap-3">
		<button class="do" disabled={!care.kinds.length}>Write it into the text</button>
		<button type="button" class="may" onclick={onclose}>Leave it</button>
		{#if onremove}<button type="button" class="may" onclick={onremove}>Remove the sentence</button>{/if}
	</div>
</form>
