<script lang="ts">
	import LogOut from '@lucide/svelte/icons/log-out';
	import Mail from '@lucide/svelte/icons/mail';
	import Moon from '@lucide/svelte/icons/moon';
	import Sun from '@lucide/svelte/icons/sun';
	import Users from '@lucide/svelte/icons/users';
	import { live } from '../../state/shell/live.svelte';
	import { route } from '../../state/shell/route.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { theme } from '../../state/shell/theme.svelte';

	type Props = { onfind: () => void };
	let { onfind }: Props = $props();

	const VIEWS = [
		['Round', '/'],
		['Floor', '/floor'],
		['Drift', '/drift'],
		['Standard', '/standard'],
		['Dialects', '/dialects'],
		['Rollouts', '/rollouts'],
		['Measure', '/measure'],
		['Stores', '/stores'],
		['Errands', '/errands'],
		['Ledger', '/ledger']
	] as const;
	const OF_FLOOR = '/seats/';

	const OF_EDITORS = [
		['My seat', '/'],
		['Floor', '/floor']
	] as const;

	const shown = $derived(session.may('see the house') ? VIEWS : session.seat ? OF_EDITORS : [VIEWS[1]]);

	function here(address: string): boolean {
		if (address === '/') return route.path === '/' || route.path === '/my-seat';
		return route.path.startsWith(address) || (address === '/floor' && route.path.startsWith(OF_FLOOR));
	}
</script>

<header class="flex flex-wrap items-center gap-x-6 gap-y-1 border-b border-hair px-4 py-2 md:px-6">
	<a href="/" class="flex items-center gap-2 text-ink no-underline" aria-label="Normant home">
		<svg width="30" height="22" viewBox="0 0 30 22" aria-hidden="true">
			<path d="M0 15H30M10 15v5M20 15v5" stroke="currentColor" stroke-width="1.6" />
			<circle cx="15" cy="9" r="5.2" fill="var(--kelp)" />
		</svg>
		<span class="font-head text-xl font-semibold">normant</span>
	</a>
	<nav aria-label="Views" class="order-last flex w-full gap-5 overflow-x-auto md:order-none md:w-auto">
		{#each shown as [name, address] (name)}
			<a href={address} class="view" aria-current={here(address) ? 'page' : undefined}>{name}</a>
		{/each}
	</nav>
	<div class="ml-auto flex items-center gap-3">
		{#if !live.connected}
			<span class="text-sm text-sienna" role="status">Live updates lost; checking every 20 s</span>
		{/if}
		<button class="find" onclick={onfind}>
			<span>Find</span>
			<kbd>/</kbd>
		</button>
		<button
			class="tool"
			onclick={() => theme.turn()}
			aria-label="Use {theme.name === 'paper' ? 'dark' : 'light'} theme"
		>
			{#if theme.name === 'paper'}<Moon size={17} />{:else}<Sun size={17} />{/if}
		</button>
		{#if session.may('see the house')}
			<a
				class="tool"
				href="/notices"
				aria-label="Notifications"
				aria-current={here('/notices') ? 'page' : undefined}><Mail size={17} /></a
			>
		{/if}
		{#if session.may('manage people')}
			<a class="tool" href="/people" aria-label="People" aria-current={here('/people') ? 'page' : undefined}
				><Users size={17} /></a
			>
		{/if}
		<a class="quiet hidden sm:inline" href="/account" aria-current={here('/account') ? 'page' : undefined}
			>{session.name}<span class="sr-only">: account</span></a
		>
		<button class="tool" onclick={() => session.signOut()} aria-label="Sign out"><LogOut size={17} /></button>
	</div>
</header>

<style>
	.view {
		color: var(--muted);
		text-decoration: none;
		padding-block: 0.35rem;
		border-bottom: 2px solid transparent;
	}
	.view:hover {
		color: var(--ink);
	}
	.view[aria-current] {
		color: var(--ink);
		font-weight: 600;
		border-color: var(--kelp);
	}
	.find {
		display: flex;
		gap: 0.8rem;
		align-items: center;
		border: 1px solid var(--rule);
		border-radius: 3px;
		background: var(--sheet);
		color: var(--muted);
		padding: 0.3rem 0.6rem;
		font-size: 0.93rem;
	}
	.tool {
		color: var(--muted);
		padding: 0.3rem;
		border-radius: 3px;
	}
	.tool[aria-current],
	.tool:hover {
		color: var(--ink);
	}
</style>
