<!-- What a division of the memory yields, and the next steps. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import type { Schemas } from '../../../api/client';
	import { memory } from '../../../model/words/sizes';
	import { Acts } from '../../../state/acts.svelte';
	import { route } from '../../../state/shell/route.svelte';
	import Refused from '../../ui/Refused.svelte';
	import type { MemoryPlan } from '../../../state/memoryPlan.svelte';

	type Props = { cut: Schemas['SeatCutOut']; plan: MemoryPlan; correcting: boolean; publishing: boolean };
	let { cut, plan, correcting, publishing }: Props = $props();

	const FIGURES = $derived([
		['preview, seconds', cut.cut.seconds.toFixed(1)],
		['frames', cut.cut.frames.toLocaleString('en')],
		['workers', String(cut.cut.workers)],
		['free', memory(cut.cut.left)]
	] as const);
	const tried = $derived(
		`/measure/new?${new URLSearchParams({
			seat: cut.seat,
			set: `memory.preview_pool ${cut.app}=${cut.pool_shown}`,
			because: `the planner proposes it: ${cut.cut.sentence}`
		})}`
	);
	const acts = new Acts('standard');

	/** The draft says which seats it would change, and has the plan for them. */
	async function draft(): Promise<void> {
		await acts.do(async () =>
			route.go(`/standard?draft=${(await write.draftOfMemory(cut.seat, plan.body)).draft}`)
		);
	}
</script>

<dl class="mb-4 flex flex-wrap gap-x-10 gap-y-2">
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
		>Find the most workers without less preview</button
	>
	{#if correcting && cut.app && !cut.cut.over && cut.cut.pool !== cut.pool_here}
		<a class="do no-underline" href={tried}>Run a trial of {cut.pool_shown}</a>
	{/if}
	{#if publishing && cut.app && !cut.cut.over}
		<button class="may" disabled={acts.busy} onclick={draft}>Draft rule for this class</button>
	{/if}
</div>
<Refused {acts} class="mt-2" />
