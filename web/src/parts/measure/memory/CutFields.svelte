<!-- Which application previews, and which frames. -->
<script lang="ts">
	import { nameOf } from '../../../model/words/names';
	import type { MemoryPlan } from '../../../state/memoryPlan.svelte';

	type Props = { plan: MemoryPlan; apps: string[]; app: string };
	let { plan, apps, app }: Props = $props();

	const FRAMES = ['1920x1080', '3840x2160', '4096x2160', '7680x4320'];
</script>

<label class="grid gap-1">
	Application
	<select class="field w-36" value={app} onchange={(event) => (plan.app = event.currentTarget.value)}>
		{#each apps as name (name)}<option value={name}>{nameOf(name)}</option>{/each}
	</select>
</label>
<label class="grid gap-1">
	Frame
	<select class="field w-36" bind:value={plan.frame}>
		{#each FRAMES as frame (frame)}<option>{frame}</option>{/each}
	</select>
</label>
<label class="grid gap-1">
	Bits per channel
	<select class="field w-24" bind:value={plan.bits}>
		{#each [8, 16, 32] as bits (bits)}<option value={bits}>{bits}</option>{/each}
	</select>
</label>
<label class="grid gap-1">
	Frames per second
	<select class="field w-32" bind:value={plan.rate}>
		{#each ['24000/1001', '24', '25', '30', '50', '60'] as rate (rate)}<option>{rate}</option>{/each}
	</select>
</label>
