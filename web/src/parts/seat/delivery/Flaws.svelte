<!-- What is wrong with an export, by timecode, and the exports beside it. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';

	type Props = { found: Schemas['InspectedOut']; onpick: (file: string) => void };
	let { found, onpick }: Props = $props();

	const FIRST = 8;
	let all = $state(false);
	const flaws = $derived(all ? found.flaws : (found.flaws ?? []).slice(0, FIRST));
	const count = $derived(found.flaws?.length ?? 0);
</script>

<ol>
	{#each flaws as flaw, at (at)}
		<li class="grid grid-cols-[7rem_minmax(0,1fr)] gap-3">
			<span class="value">{flaw.at || 'whole file'}</span><span>{flaw.message}</span>
		</li>
	{/each}
</ol>
{#if !all && count > FIRST}
	<button class="anchor underline" onclick={() => (all = true)}>Show all {count}</button>
{/if}
{#if found.others?.length}
	<p class="quiet mt-1">
		Other differences:
		{#each found.others as other (other)}
			<button class="anchor value mr-2 underline" onclick={() => onpick(other)}>{other}</button>
		{/each}
	</p>
{/if}
