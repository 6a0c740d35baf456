<!-- Whether what rollouts set stays so, and who changes it back. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import { moment } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';

	type Props = { rollout?: number | undefined };
	let { rollout }: Props = $props();

	const DAYS = ['1 day', '1 week', '30 days'];
	const stayed = createQuery(() => ask.stayed(rollout));
	const found = $derived(stayed.data?.items ?? []);
</script>

{#if found.length}
	<section class="mt-8" aria-labelledby="stayed">
		<h2 id="stayed" class="text-lg">Lasting corrections</h2>
		<p class="quiet mb-1">
			Corrections still in place after 1 day, 1 week and 30 days. More recent corrections are not counted.
		</p>
		<div class="overflow-x-auto">
			<table class="w-full text-left" aria-labelledby="stayed">
				<thead class="quiet">
					<tr>
						<th>setting</th><th class="figure">corrected</th>
						{#each DAYS as days (days)}<th class="figure">after {days}</th>{/each}
						<th>changed back by</th>
					</tr>
				</thead>
				<tbody>
					{#each found as setting (setting.setting + (setting.app ?? ''))}{@render line(setting)}{/each}
				</tbody>
			</table>
		</div>
	</section>
{/if}

{#snippet line(setting: (typeof found)[number])}
	<tr class="border-t border-hair align-top" data-stayed={setting.setting}>
		<td>{setting.title}{setting.app ? `, ${nameOf(setting.app)}` : ''}</td>
		<td class="value figure">{setting.corrected}</td>
		{#each setting.after as [days, lasting, of] (days)}
			<td class="figure {of ? 'value' : 'quiet'}">{of ? `${lasting} of ${of}` : 'too recent'}</td>
		{/each}
		<td>{@render changedBack(setting.back)}</td>
	</tr>
{/snippet}

{#snippet changedBack(times: Schemas['BackOut'][])}
	{#each times as back (back.seat)}
		<p>
			<a class="anchor underline" href="/seats/{back.seat}">{back.seat}</a>
			<span class="quiet"
				>{back.how}, {back.times === 1 ? '1 time' : `${back.times} times, last`}
				{moment(back.last)}</span
			>
		</p>
	{:else}
		<span class="quiet">–</span>
	{/each}
{/snippet}

<style>
	th {
		font-weight: normal;
		padding: 0.2rem 0.8rem 0.2rem 0;
	}
	td {
		padding: 0.4rem 0.8rem 0.4rem 0;
	}
	.figure {
		text-align: right;
		white-space: nowrap;
		padding-right: 1.6rem;
	}
</style>
