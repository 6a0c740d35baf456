<!-- A survey that was carried here from a seat without a network. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { exactly } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { onclose: () => void };
	let { onclose }: Props = $props();

	let told = $state<Schemas['BroughtOut']>();
	const acts = new Acts('seat');
	const faults = $derived((acts.problem?.faults ?? []).slice(0, 20));

	async function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
		const file = event.currentTarget.files?.[0];
		if (!file) return;
		told = undefined;
		await acts.do(async () => {
			told = await write.uploadSurvey(file);
		});
	}
</script>

<Sheet title="Upload a survey" {onclose}>
	<p>
		On the seat, <span class="value">normant survey --out FILE</span> writes a survey file. Upload the file here.
	</p>
	<label class="mt-3 block"
		>Survey <input
			class="field mt-1 w-full"
			type="file"
			accept=".json,application/json"
			onchange={bring}
		/></label
	>
	{#if acts.refused}
		<div class="mt-3" role="alert">
			<p class="text-oxblood">Upload failed. {faults.length ? '' : acts.refused}</p>
			<ul>
				{#each faults as fault, index (index)}
					<li class="border-t border-hair py-1">
						<span class="value">{fault.line}:{fault.column} {fault.path}</span>
						{fault.message}
						<span class="quiet">{fault.expected ? `expected ${fault.expected}` : ''}</span>
					</li>
				{/each}
			</ul>
		</div>
	{/if}
	{#if told}
		<p class="mt-3" role="status">
			<a href="/seats/{told.seat}" onclick={onclose}>{told.seat}</a> surveyed {exactly(told.taken_at)}: {told.changed
				? 'record updated'
				: 'no changes, or older than the last survey'}.
		</p>
	{/if}
</Sheet>
