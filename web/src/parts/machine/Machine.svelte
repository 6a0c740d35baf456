<script lang="ts">
	import type { Snippet } from 'svelte';
	import type { Schemas } from '../../api/client';
	import type { Facts } from '../../model/words/facts';
	import Device from './Device.svelte';
	import MemoryBar from './MemoryBar.svelte';
	import { memory } from '../../model/words/sizes';
	import { nameOf } from '../../model/words/names';

	type Props = {
		facts: Facts;
		flows: Schemas['FlowOut'][];
		budget: Schemas['BudgetOut'] | null;
		volumes: Snippet;
	};
	let { facts, flows, budget, volumes }: Props = $props();

	const nowhere = $derived(flows.filter((flow) => flow.device === null));
	/** What a device does: `effects for Corrow and Plinthe`. */
	function work(device: string): string {
		const kinds: Record<string, string[]> = {};
		for (const flow of flows) {
			if (flow.device === device) (kinds[flow.work] ??= []).push(nameOf(flow.app));
		}
		return Object.entries(kinds)
			.map(([kind, apps]) => `${kind} for ${apps.join(' and ')}`)
			.join('; ');
	}
	const listed = (...parts: (string | undefined | false)[]): string => parts.filter(Boolean).join(', ');
</script>

<section aria-label="Machine">
	<h2 class="text-base">Machine</h2>
	<dl>
		<dt>System</dt>
		<dd class="value">{listed(facts.system?.platform, facts.system?.version) || 'unknown'}</dd>
		<dt>Processor</dt>
		<dd>
			<span class="value">{facts.cpu?.model ?? 'unknown'}</span>
			<span class="quiet"
				>{listed(
					facts.cpu?.cores !== undefined && `${facts.cpu.cores} cores`,
					facts.cpu?.threads !== undefined && `${facts.cpu.threads} threads`
				)}</span
			>
		</dd>
		{#if work('cpu')}<dd class="does">{work('cpu')}</dd>{/if}
		<dt>Memory</dt>
		<dd class="value">{facts.memory?.total ? memory(facts.memory.total) : 'unknown'}</dd>
	</dl>
	{#if budget}<MemoryBar {budget} />{/if}
	<h3 class="mt-3">GPUs</h3>
	{#each facts.gpus ?? [] as gpu (gpu.id)}
		<Device {gpu} work={work(gpu.id)} />
	{:else}
		<p class="quiet">{facts.gpus ? 'none' : 'unknown'}</p>
	{/each}
	{#each nowhere as flow (flow.app + flow.work)}
		<p class="lost">{nameOf(flow.app)} {flow.work} has no device: {flow.why}</p>
	{/each}
	{@render volumes()}
	<h3 class="mt-3">Applications</h3>
	{#each facts.applications ?? [] as app (app.id)}
		<p>
			{nameOf(app.id)} <span class="value">{app.version ?? ''}</span>
			<span class="quiet">{listed(app.edition, app.running ? 'open' : 'closed')}</span>
		</p>
	{:else}
		<p class="quiet">no applications with a dialect</p>
	{/each}
</section>

<style>
	dl {
		display: grid;
		grid-template-columns: 6rem 1fr;
		margin-top: 0.4rem;
		row-gap: 0.15rem;
	}
	dt {
		color: var(--muted);
	}
	.does {
		grid-column: 2;
		color: var(--kelp);
		font-weight: 600;
		font-size: 0.9rem;
	}
	.does::before {
		content: '→ ';
	}
	.lost {
		color: var(--oxblood);
		font-size: 0.9rem;
		margin-top: 0.3rem;
	}
</style>
