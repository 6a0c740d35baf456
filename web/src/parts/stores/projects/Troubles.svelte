<!-- What is wrong with a project's media, by its kind, each with what to do. -->
<script lang="ts">
	import { troublesByKind, type Trouble } from '../../../model/stores/projects';
	import { storage } from '../../../model/words/sizes';

	type Props = { list: Trouble[]; more: number };
	let { list, more }: Props = $props();
</script>

{#each troublesByKind(list) as kind (kind.title)}
	<section class="mt-4" aria-label={kind.title}>
		<h3 class="text-[1.05rem] font-semibold">
			{kind.title} <span class="quiet font-normal">{kind.do}</span>
		</h3>
		<ul>
			{#each kind.rows as row, number (number)}
				{@render wrong(row)}
			{/each}
		</ul>
	</section>
{:else}
	<p>No problems with its media.</p>
{/each}
{#if more}<p class="quiet mt-2">{more.toLocaleString('en')} more are not listed.</p>{/if}

{#snippet wrong(row: Trouble)}
	<li class="flex flex-wrap gap-x-4 border-t border-hair py-1">
		<span class="value flex-1 break-all">{row.paths.join(', ')}</span>
		<span class="quiet">{row.why}</span>
		{#if row.size}<span class="value">{storage(row.size)}</span>{/if}
	</li>
{/snippet}
