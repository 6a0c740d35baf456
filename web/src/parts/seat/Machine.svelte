<script lang="ts">
	import type { Schemas } from '../../api/client';
	import type { Facts, Store } from '../../model/words/facts';
	import MemoryBar from './MemoryBar.svelte';
	import { memory, storage } from '../../model/words/sizes';
	import { nameOf } from '../../model/words/names';

	type Props = {
		facts: Facts;
		stores: Store[];
		flows: Schemas['FlowOut'][];
		budget: Schemas['BudgetOut'] | null;
		onclear?: (() => void) | undefined;
	};
	let { facts, stores, flows, budget, onclear }: Props = $props();

	const share = (part: number | undefined, whole: number | undefined): number =>
		whole ? (100 * (part ?? 0)) / whole : 0;
	const on = (volume: string): Store[] => stores.filter((store) => store.volume === volume);
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
	const told = (...parts: (string | undefined | false)[]): string => parts.filter(Boolean).join(', ');
</script>

<section aria-label="The machine">
	<h2 class="text-base">The machine</h2>
	<dl>
		<dt>System</dt>
		<dd class="value">{told(facts.system?.platform, facts.system?.version) || 'unread'}</dd>
		<dt>Processor</dt>
		<dd>
			<span class="value">{facts.cpu?.model ?? 'unread'}</span>
			<span class="quiet"
				>{told(
					facts.cpu?.cores !== undefined && `${facts.cpu.cores} cores`,
					facts.cpu?.threads !== undefined && `${facts.cpu.threads} threads`
				)}</span
			>
		</dd>
		{#if work('cpu')}<dd class="does">{work('cpu')}</dd>{/if}
		<dt>Memory</dt>
		<dd class="value">{facts.memory?.total ? memory(facts.memory.total) : 'unread'}</dd>
	</dl>
	{#if budget}<MemoryBar {budget} />{/if}
	<h3 class="mt-3">GPUs</h3>
	{#each facts.gpus ?? [] as gpu (gpu.id)}
		<div class="device" class:off={gpu.enabled === false}>
			<p>
				<b>{gpu.model ?? 'unnamed'}</b>
				<span class="quiet">{told(gpu.id, gpu.kind, gpu.enabled === false && 'off in firmware')}</span>
			</p>
			<p class="quiet">
				{told(
					gpu.memory ? memory(gpu.memory) : undefined,
					gpu.driver?.version && `driver ${gpu.driver.version} ${gpu.driver.branch ?? ''}`,
					gpu.driver?.released
				)}
			</p>
			{#if work(gpu.id)}<p class="does">{work(gpu.id)}</p>{/if}
			<p class="quiet">
				{(gpu.interfaces ?? []).join(', ')}{gpu.decode?.length ? `; decodes ${gpu.decode.join(', ')}` : ''}
			</p>
		</div>
	{:else}
		<p class="quiet">{facts.gpus ? 'none' : 'unread'}</p>
	{/each}
	{#each nowhere as flow (flow.app + flow.work)}
		<p class="lost">{nameOf(flow.app)}’s {flow.work} goes nowhere: {flow.why}</p>
	{/each}
	<h3 class="mt-3">Volumes</h3>
	{#each facts.volumes ?? [] as volume (volume.id)}
		<div class="mt-1.5">
			<p>
				<span class="value">{volume.mount}</span>
				<span class="quiet"
					>{told(
						volume.id,
						volume.kind,
						volume.system && 'system',
						volume.removable && 'removable',
						volume.attached === false && 'not attached'
					)}</span
				>
			</p>
			<div class="tank" aria-hidden="true">
				<span class="used" style:width="{100 - share(volume.free, volume.capacity)}%"></span>
				{#each on(volume.id) as store (store.path)}
					<span
						class="store"
						style:width="{share(store.size, volume.capacity)}%"
						style:right="{share(volume.free, volume.capacity)}%"
					></span>
				{/each}
			</div>
			<p class="quiet">{storage(volume.free ?? 0)} free of {storage(volume.capacity ?? 0)}</p>
			{#each on(volume.id) as store (store.path)}
				<p class="quiet">
					{store.purpose.replace('_', ' ')} <span class="value">{store.path}</span>: {storage(
						store.size ?? 0
					)}, {storage(store.unused ?? 0)} unused
				</p>
			{/each}
		</div>
	{:else}
		<p class="quiet">unread</p>
	{/each}
	{#if onclear}
		<p class="mt-2"><button class="anchor underline" onclick={onclear}>Clear a store…</button></p>
	{/if}
	<h3 class="mt-3">Applications</h3>
	{#each facts.applications ?? [] as app (app.id)}
		<p>
			{nameOf(app.id)} <span class="value">{app.version ?? ''}</span>
			<span class="quiet">{told(app.edition, app.running ? 'open' : 'closed')}</span>
		</p>
	{:else}
		<p class="quiet">none that a dialect knows</p>
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
	.device {
		border-left: 2px solid var(--rule);
		padding-left: 0.6rem;
		margin-top: 0.4rem;
	}
	.off {
		border-left-style: dashed;
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
	.tank {
		position: relative;
		height: 12px;
		border: 1px solid var(--rule);
		background: var(--sheet);
		margin-block: 0.15rem;
	}
	.used {
		position: absolute;
		inset-block: 0;
		left: 0;
		background: var(--hair);
	}
	.store {
		position: absolute;
		inset-block: 0;
		background: var(--whisper);
	}
</style>
