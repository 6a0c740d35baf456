<!-- What a cut comes to, and where to go on from it. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { memory } from '../../../model/words/sizes';
	import type { MemoryPlan } from '../../../state/memoryPlan.svelte';

	type Props = { cut: Schemas['SeatCutOut']; plan: MemoryPlan; correcting: boolean };
	let { cut, plan, correcting }: Props = $props();

	const FIGURES = $derived([
		['seconds of preview', cut.cut.seconds.toFixed(1)],
		['frames', cut.cut.frames.toLocaleString('en')],
		['workers', String(cut.cut.workers)],
		['left', memory(cut.cut.left)]
	] as const);
	const tried = $derived(
		`/measure/new?${new URLSearchParams({
			seat: cut.seat,
			set: `memory.preview_pool ${cut.app}=${cut.pool_shown}`,
			because: `the planner proposes it: ${cut.cut.sentence}`
		})}`
	);
	const rule = $derived(
		`[[layer.rule]]\nsetting = "memory.preview_pool"\napp = "${cut.app}"\nat_most = "${cut.pool_shown}"\nseverity = "advise"`
	);
</script>

<dl class="my-5 flex flex-wrap gap-x-10 gap-y-2">
	{#each FIGURES as [name, figure] (name)}
		<div>
			<dt class="quiet">{name}</dt>
			<dd class="font-head text-2xl">{figure}</dd>
		</div>
	{/each}
</dl>
<p class="max-w-[52rem]" class:text-oxblood={cut.cut.over > 0} role="status">{cut.cut.sentence}</p>
<div class="mt-3 flex flex-wrap gap-3">
	<button class="may" onclick={() => (plan.workers = undefined)} disabled={plan.workers === undefined}
		>Plan it: as many workers as cost no preview</button
	>
	{#if correcting && cut.app && !cut.cut.over && cut.cut.pool !== cut.pool_here}
		<a class="do no-underline" href={tried}>Try {cut.pool_shown} by runs</a>
	{/if}
</div>
{#if correcting && cut.app}
	<details class="mt-4">
		<summary class="anchor">As a rule for a draft</summary>
		<pre class="value mt-2 border border-hair bg-sheet p-3">{rule}</pre>
		<p class="quiet mt-1">
			Put it into a layer of the <a class="anchor underline" href="/standard">standard</a>: a draft says what
			it would change before it is published.
		</p>
	</details>
{/if}
