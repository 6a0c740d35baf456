<!-- Decode routes: codecs by seats, who decodes, at which measured rate, and why not another. -->
<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import MeasureTabs from '../../parts/measure/MeasureTabs.svelte';
	import Ask from '../../parts/ui/Ask.svelte';

	let needed = $state(25);
	let hours = $state(3);
	const routes = createQuery(() => ({ ...ask.routes(needed, hours), placeholderData: keepPreviousData }));
	let opened = $state<{ seat: string; told: Schemas['RouteOut'] }>();

	const rateOf = ({ rate }: Schemas['RouteOut']): string => (rate === null ? '' : ` ${rate.toFixed(0)}`);
	const spoken = (seat: string, told: Schemas['RouteOut']): string =>
		`${seat}: ${told.sentence}${told.rate === null ? ', not measured' : `, ${told.rate.toFixed(0)} frames per second`}`;
</script>

<svelte:head><title>Decode routes · Normant</title></svelte:head>
<h1 class="mb-2 text-2xl">Decode routes</h1>
<MeasureTabs />
<div class="mb-3 flex flex-wrap items-center gap-x-8 gap-y-2">
	<label class="flex items-center gap-2">
		Needed <input class="field w-20" type="number" min="1" max="1000" bind:value={needed} /> frames per second
	</label>
	<label class="flex items-center gap-2">
		Material <input class="field w-20" type="number" min="0" max="10000" step="any" bind:value={hours} /> hours
	</label>
	<p class="quiet">
		A figure is a rate that was measured on a reference clip; a device alone is what would be used.
	</p>
</div>
<Ask of={routes}>
	{#snippet children(found)}
		<div class="grid grid-cols-1 items-start gap-x-10 gap-y-4 lg:grid-cols-[auto_minmax(0,1fr)]">
			<div class="overflow-x-auto">
				<table>
					<thead>
						<tr>
							<th scope="col">Seat</th>
							<th scope="col">Class</th>
							{#each found.codecs as codec (codec)}<th scope="col" class="value">{codec}</th>{/each}
						</tr>
					</thead>
					<tbody>
						{#each found.seats as { seat, hardware_class, routes: told } (seat)}
							<tr>
								<th scope="row"><a class="anchor" href="/seats/{seat}">{seat}</a></th>
								<td class="quiet">{hardware_class}</td>
								{#each told as entry (entry.codec)}
									<td>
										<button
											class="route"
											class:slow={entry.plays === false}
											class:cpu={entry.device === 'cpu'}
											title={spoken(seat, entry)}
											aria-label={spoken(seat, entry)}
											aria-expanded={opened?.seat === seat && opened.told.codec === entry.codec}
											onclick={() => (opened = { seat, told: entry })}>{entry.device}{rateOf(entry)}</button
										>
									</td>
								{/each}
							</tr>
						{/each}
					</tbody>
				</table>
			</div>
			<aside class="why" aria-label="Why this device">
				{#if opened}
					<h2 class="text-lg">{opened.told.codec} on {opened.seat}</h2>
					<p role="status">{spoken(opened.seat, opened.told)}.</p>
					{#if opened.told.plays === false}
						<p class="text-sienna">
							Too slow for {needed}. The cheapest that may hold: {opened.told.remedy}.
						</p>
					{/if}
					<p class="mt-2">
						<a class="may no-underline" href="/measure/new?kind=choice&seat={opened.seat}"
							>Measure its devices</a
						>
					</p>
				{:else}
					<p class="quiet">Choose a device: this says why it decodes, and why those before it do not.</p>
				{/if}
			</aside>
		</div>
	{/snippet}
</Ask>

<style>
	.why {
		position: sticky;
		top: 1rem;
		max-width: 26rem;
	}
	table {
		border-collapse: collapse;
	}
	th {
		text-align: left;
		padding: 0.2rem 1.1rem 0.2rem 0;
		font-weight: 600;
	}
	td {
		padding: 0 1.1rem 0 0;
	}
	tr {
		border-top: 1px solid var(--hair);
	}
	.route {
		min-height: 26px;
		min-width: 5rem;
		text-align: left;
		font-family: var(--font-mono);
		font-size: 0.93rem;
	}
	.cpu {
		color: var(--muted);
	}
	.slow {
		color: var(--sienna);
		text-decoration: underline;
	}
</style>
