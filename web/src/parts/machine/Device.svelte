<!-- A GPU of a seat: what it is, its driver, and what works on it. -->
<script lang="ts">
	import type { Facts } from '../../model/words/facts';
	import { memory } from '../../model/words/sizes';

	type Props = { gpu: NonNullable<Facts['gpus']>[number]; work: string };
	let { gpu, work }: Props = $props();

	const listed = (...parts: (string | undefined | false)[]): string => parts.filter(Boolean).join(', ');
</script>

<div class="device" class:off={gpu.enabled === false}>
	<p>
		<b>{gpu.model ?? 'unknown model'}</b>
		<span class="quiet">{listed(gpu.id, gpu.kind, gpu.enabled === false && 'off in firmware')}</span>
	</p>
	<p class="quiet">
		{listed(
			gpu.memory ? memory(gpu.memory) : undefined,
			gpu.driver?.version && `driver ${gpu.driver.version} ${gpu.driver.branch ?? ''}`,
			gpu.driver?.released
		)}
	</p>
	{#if work}<p class="does">{work}</p>{/if}
	<p class="quiet">
		{(gpu.interfaces ?? []).join(', ')}{gpu.decode?.length ? `; decodes ${gpu.decode.join(', ')}` : ''}
	</p>
</div>

<style>
	.device {
		border-left: 2px solid var(--rule);
		padding-left: 0.6rem;
		margin-top: 0.4rem;
	}
	.off {
		border-left-style: dashed;
	}
	.does {
		color: var(--kelp);
		font-weight: 600;
		font-size: 0.9rem;
	}
	.does::before {
		content: '→ ';
	}
</style>
