<script lang="ts">
	import Level from '../parts/level/Level.svelte';
	import { session } from '../state/session.svelte';

	let name = $state('');
	let password = $state('');
	let refused = $state('');
	let busy = $state(false);

	async function enter(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		busy = true;
		try {
			await session.signIn(name, password);
		} catch (error) {
			refused = (error as Error).message;
		} finally {
			busy = false;
		}
	}
</script>

<main class="mx-auto grid min-h-screen max-w-sm content-center px-6">
	<h1 class="text-3xl">normant</h1>
	<div class="my-3"><Level status="in-norm" words="In norm" size="large" /></div>
	<form class="grid gap-3" onsubmit={enter}>
		<label>Name <input class="field mt-1 w-full" autocomplete="username" required bind:value={name} /></label>
		<label>
			Password
			<input
				class="field mt-1 w-full"
				type="password"
				autocomplete="current-password"
				required
				bind:value={password}
			/>
		</label>
		{#if refused}<p class="text-oxblood" role="alert">{refused}</p>{/if}
		<button class="do justify-self-start" disabled={busy}>{busy ? 'One moment…' : 'Sign in'}</button>
	</form>
</main>
