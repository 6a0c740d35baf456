<!-- A seat compared with its peers, another seat, or itself at another moment: the likeliest cause first. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import type { Schemas } from '../../api/client';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import Differences from '../../parts/seat/Differences.svelte';
	import { exactly } from '../../model/words/moment';
	import { heardOf } from '../../model/house/rooms';
	import { addressOf, keyOf } from '../../state/newTrial.svelte';
	import { correction } from '../../state/correction.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { route } from '../../state/shell/route.svelte';

	type Props = { name: string };
	let { name }: Props = $props();
	type Beside = { other?: string; at?: string; other_at?: string };

	const DAYS_BACK = [1, 7, 14, 29];
	const KEYS = ['other', 'at', 'other_at'] as const;
	const beside = $derived<Beside>(
		Object.fromEntries(
			KEYS.flatMap((key) => {
				const value = route.query.get(key);
				return value ? [[key, value]] : [];
			})
		)
	);
	const floor = createQuery(ask.floor);
	const others = $derived(heardOf(floor.data?.items ?? []).filter((seat) => seat.name !== name));
	const triable = createQuery(() => ({ ...ask.triable([name]), enabled: session.may('correct') }));
	const told = createQuery(() => ask.compare(name, beside));
	const choice = $derived(beside.other === name ? 'itself' : (beside.other ?? ''));

	function choose(other: string): void {
		route.filter('other_at', other === 'itself' ? daysAgo(7) : '');
		route.filter('other', other === 'itself' ? name : other);
	}

	function daysAgo(days: number): string {
		return new Date(Date.now() - days * 86_400_000).toISOString();
	}

	/** Where a trial of the other seat's value is begun on this one; empty for what cannot be tried. */
	function tried({ setting, app, theirs }: Schemas['DifferenceOut']): string {
		const keys = (triable.data?.items ?? []).map((row) => keyOf(row.setting, row.app));
		if (!theirs || !keys.includes(keyOf(setting, app))) return '';
		return addressOf([name], [{ setting, app, value: theirs }]);
	}
</script>

<svelte:head><title>Compare {name} · Normant</title></svelte:head>
<div class="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-2">
	<h1 class="text-2xl">
		<a class="text-ink no-underline hover:underline" href="/seats/{name}">{name}</a> compared with
	</h1>
	<select
		class="field w-auto py-1"
		aria-label="Compare with"
		value={choice}
		onchange={(event) => choose(event.currentTarget.value)}
	>
		<option value="">seats of the same kind</option>
		<option value="itself">itself, earlier</option>
		{#each others as seat (seat.name)}
			<option>{seat.name}</option>
		{/each}
	</select>
	{#if choice === 'itself'}
		{#each DAYS_BACK as days (days)}
			<button class="anchor" onclick={() => route.filter('other_at', daysAgo(days))}>
				{days === 1 ? '1 day' : `${days} days`} ago
			</button>
		{/each}
	{/if}
	{#if beside.at}
		<p class="quiet">
			{name} as it was {exactly(beside.at)}
			<button class="anchor" onclick={() => route.filter('at', '')}>Show current state</button>
		</p>
	{/if}
</div>
<Ask of={told}>
	{#snippet children(found)}
		<p class="says" data-sentence>{found.sentence}</p>
		<p class="quiet mt-1 mb-4">
			{#if found.peers.names.length}
				Compared with {found.peers.names.length}
				{found.peers.names.length === 1 ? 'peer' : 'peers'} without critical findings or warnings ({found
					.peers.kind}): {found.peers.names.join(', ')}.
			{:else}
				No peers without critical findings or warnings ({found.peers.kind}): sorted by usual effect only.
			{/if}
		</p>
		{#key `${choice} ${beside.at} ${beside.other_at}`}
			<Differences
				rows={found.differences}
				mine={name}
				{tried}
				oncorrect={session.may('correct') ? (finding) => correction.plan([finding]) : undefined}
				theirs="{found.theirs.name}{found.theirs.at ? `, ${exactly(found.theirs.at)}` : ''}"
			/>
		{/key}
		{#if found.facts.length}
			<h2 class="mt-5 text-base">Machine</h2>
			<table class="text-left">
				<tbody>
					{#each found.facts as fact (fact.name)}
						<tr class="border-t border-hair">
							<td>{fact.name}</td>
							<td class="value">{fact.mine ?? 'none'}</td>
							<td class="value">{fact.theirs ?? 'none'}</td>
						</tr>
					{/each}
				</tbody>
			</table>
		{/if}
		<p class="quiet mt-4">{found.same} settings are the same on both sides.</p>
	{/snippet}
</Ask>

<style>
	.says {
		font-family: var(--font-head);
		font-size: 1.25rem;
		line-height: 1.35;
		max-width: 60ch;
	}
	td {
		padding: 0.3rem 1.4rem 0.3rem 0;
		vertical-align: baseline;
	}
</style>
