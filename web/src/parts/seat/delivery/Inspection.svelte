<!-- One export that a seat looked into: whole, or what is wrong with it and where. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import Flaws from './Flaws.svelte';
	import { moment } from '../../../model/words/moment';
	import { storage } from '../../../model/words/sizes';

	type Props = { inspection: Schemas['InspectionOut']; onpick: (file: string) => void };
	let { inspection, onpick }: Props = $props();

	const found = $derived(inspection.inspected);
	const wrong = $derived(found ? found.flaws.length + found.unshown : 0);
	const form = $derived(
		found
			? `${found.deliverable.codec}, ${found.deliverable.width} x ${found.deliverable.height} at ${found.deliverable.rate.replace('/1', '')}, ` +
					`${found.deliverable.bits} bits ${found.deliverable.chroma}, ${found.decoded} frames, ${storage(found.size)}`
			: ''
	);
	const verdict = $derived(wrong ? `${wrong} ${wrong === 1 ? 'problem' : 'problems'} found` : 'whole');
</script>

<li
	class="border-t border-hair py-2"
	data-inspected={inspection.told ? (found ? verdict : inspection.outcome) : 'asked'}
>
	<p class="flex flex-wrap items-baseline gap-x-3">
		<span class="value break-all">{inspection.file || 'latest export'}</span>
		{#if found}
			<span class="font-semibold" class:text-oxblood={wrong} class:text-kelp={!wrong}>{verdict}</span>
		{/if}
		<span class="quiet ml-auto">{moment(inspection.asked_at)}</span>
	</p>
	{#if found}
		<p class="quiet">{form}</p>
		<Flaws {found} {onpick} />
	{:else if inspection.told}
		<p class="text-oxblood">{inspection.message}</p>
	{:else}
		<p role="status">{inspection.message || 'Waiting for the seat…'}</p>
	{/if}
</li>
