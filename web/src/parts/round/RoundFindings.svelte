<!-- What one thing of the Round is about: why, and its first findings one by one. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { language } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';

	type Props = { item: Schemas['RoundItemOut'] };
	let { item }: Props = $props();
</script>

<div class="opened">
	{#if item.because}<p class="mb-2">{item.because}</p>{/if}
	{#if item.findings.length}
		<table class="w-full text-left">
			<thead class="quiet"
				><tr><th>seat</th><th>setting</th><th>reading</th><th>house standard</th><th>correction</th></tr
				></thead
			>
			<tbody>
				{#each item.findings as finding (finding.id)}
					<tr class="align-top">
						<td class="whitespace-nowrap"
							><a class="anchor" href="/seats/{finding.seat}">{finding.seat}</a></td
						>
						<td>{finding.title}{finding.app ? `, ${nameOf(finding.app)}` : ''}</td>
						<td class="value">{finding.reading}</td>
						<td class="value">{finding.norm}</td>
						<td class="value">{finding.fix}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	{/if}
	{#if item.count > item.findings.length}
		<p class="quiet mt-2">
			The first {item.findings.length} of {item.count.toLocaleString(language)};
			<a class="anchor underline" href="/drift?rows=causes">Drift</a>
			shows all of them.
		</p>
	{/if}
	{#if !item.findings.length}<p>{item.words}</p>{/if}
</div>

<style>
	.opened {
		margin: 0.6rem 0 0 7.1rem;
		border: 1px solid var(--hair);
		background: var(--sheet);
		padding: 0.6rem 0.8rem;
		overflow-x: auto;
	}
	th {
		font-weight: normal;
	}
	td,
	th {
		padding: 0.2rem 0.9rem 0.2rem 0;
		font-size: 0.9rem;
	}
	@media (max-width: 640px) {
		.opened {
			margin-left: 0;
		}
	}
</style>
