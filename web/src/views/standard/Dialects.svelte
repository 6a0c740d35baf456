<!-- How each application keeps its preferences. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import DialectText from '../../parts/dialect/DialectText.svelte';
	import { ago } from '../../model/words/moment';
	import { nameOf } from '../../model/words/names';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';

	const NEW = 'new';
	const dialects = createQuery(ask.dialects);
	const chosen = $derived(route.parts[1] ?? dialects.data?.items[0]?.app ?? '');
	const one = $derived(dialects.data?.items.find((dialect) => dialect.app === chosen));
	let fresh = $state('');
</script>

<svelte:head><title>Dialects · Normant</title></svelte:head>
<Ask of={dialects}>
	{#snippet children(found)}
		<div class="mb-1 flex flex-wrap items-baseline gap-x-4">
			<h1 class="text-2xl">Dialects</h1>
			<p class="word">how each application keeps its preferences</p>
		</div>
		<nav class="mb-4 flex flex-wrap gap-x-5 gap-y-1" aria-label="Applications">
			{#each found.items as dialect (dialect.app)}
				<a
					class="app"
					href="/dialects/{dialect.app}"
					aria-current={dialect.app === chosen ? 'page' : undefined}>{nameOf(dialect.app)}</a
				>
			{/each}
			{#if session.may('publish')}
				<a class="app" href="/dialects/{NEW}" aria-current={chosen === NEW ? 'page' : undefined}
					>Add application</a
				>
			{/if}
		</nav>
		{#if one}
			<p class="quiet mb-3">version {one.number}, saved {ago(one.changed_at)}</p>
			{#key `${one.app} ${one.number}`}
				<DialectText
					app={one.app}
					kept={one.text}
					number={one.number}
					onkept={(app) => route.go(`/dialects/${app}`)}
				/>
			{/key}
		{:else if chosen === NEW}
			<label class="mb-4 block max-w-sm"
				>Application name (one word)
				<input class="field mt-1 w-full" pattern="[A-Za-z0-9._:\-]+" bind:value={fresh} /></label
			>
			{#if fresh}
				<DialectText
					app={fresh.toLowerCase()}
					kept=""
					number={0}
					onkept={(app) => route.go(`/dialects/${app}`)}
				/>
			{/if}
		{:else}
			<p class="quiet">No dialect for {chosen || 'any application'} yet.</p>
		{/if}
	{/snippet}
</Ask>

<style>
	.app {
		color: var(--muted);
		text-decoration: none;
		padding-block: 0.2rem;
		border-bottom: 2px solid transparent;
	}
	.app[aria-current] {
		color: var(--ink);
		font-weight: 600;
		border-color: var(--kelp);
	}
</style>
