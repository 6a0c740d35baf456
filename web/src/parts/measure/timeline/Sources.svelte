<!-- What a timeline is made of: its sources, its effects, and what could not be placed. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import type { Schemas } from '../../../api/client';
	import { lengthOf } from '../../../model/measure/timeline';
	import { Acts } from '../../../state/acts.svelte';
	import { session } from '../../../state/shell/session.svelte';
	import Refused from '../../ui/Refused.svelte';

	type Props = { found: Schemas['TimelineOut'] };
	let { found }: Props = $props();

	const FIRST = 30;
	const acts = new Acts('timeline');
	const unknown = $derived(found.sources.filter((source) => !source.codec).length);
	const effect = (used: Schemas['EffectUsedOut']): string => {
		if (used.only_cpu) return 'has no GPU version: always runs on the processor';
		return used.devices.length ? `cost known for ${used.devices.join(', ')}` : 'cost unknown';
	};

	async function tell(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
		const file = event.currentTarget.files?.[0];
		if (file) {
			const media = await file.text();
			await acts.do(() => write.keepMedia(found.id, media));
		}
	}
</script>

{#if found.effects.length}
	<h2 class="mt-7 mb-1 text-lg">Effects</h2>
	<ul>
		{#each found.effects as used (used.name)}
			<li class:text-sienna={used.only_cpu || !used.devices.length}>
				<span class="value">{used.name}</span>
				{effect(used)}
			</li>
		{/each}
	</ul>
{/if}
{#if found.left.length}
	<h2 class="mt-7 mb-1 text-lg">Not placed</h2>
	<ul>
		{#each found.left.slice(0, FIRST) as line, at (at)}<li class="value">{line}</li>{/each}
		{#if found.left.length > FIRST}<li class="quiet">and {found.left.length - FIRST} more</li>{/if}
	</ul>
{/if}
<details class="mt-7" open={unknown > 0}>
	<summary class="cursor-pointer"
		><h2 class="inline text-lg">Sources</h2>
		<span class="quiet">{found.sources.length}{unknown ? `, ${unknown} without a description` : ''}</span
		></summary
	>
	{#if session.may('correct')}
		<label class="my-2 flex flex-wrap items-center gap-3"
			>List of sources, .csv <input type="file" accept=".csv" onchange={tell} /></label
		>
		<Refused {acts} />
	{/if}
	<ul>
		{#each found.sources as source (source.target)}
			<li class="grid grid-cols-[minmax(0,1fr)_14rem_5rem] gap-4 border-t border-hair py-1">
				<span class="value break-all">{source.target}</span>
				<span class="value" class:text-sienna={!source.codec}
					>{source.codec ? `${source.codec}, ${source.width} x ${source.height}` : 'not described'}</span
				>
				<span class="quiet">{source.seconds ? lengthOf(source.seconds) : ''}</span>
			</li>
		{/each}
	</ul>
</details>
