<script lang="ts">
	import { QueryClientProvider } from '@tanstack/svelte-query';
	import { queryClient } from './api/queries';
	import House from './House.svelte';
	import { session } from './state/shell/session.svelte';
	import { route } from './state/shell/route.svelte';
	import SetPassword from './views/people/SetPassword.svelte';
	import SignIn from './views/people/SignIn.svelte';

	$effect(() => void session.load());
</script>

<svelte:document onclick={route.follow} />

<QueryClientProvider client={queryClient}>
	{#if session.failed}
		<main class="p-10" role="alert">
			<h1 class="text-xl">Normant is not responding</h1>
			<p class="mt-2">{session.failed}</p>
			<button class="may mt-4" onclick={() => session.load()}>Try again</button>
		</main>
	{:else if !session.known}
		<p class="quiet p-10" role="status">Loading…</p>
	{:else if route.parts[0] === 'set-password'}
		<SetPassword />
	{:else if session.name}
		<House />
	{:else}
		<SignIn />
	{/if}
</QueryClientProvider>
