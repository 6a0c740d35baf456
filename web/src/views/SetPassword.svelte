<!-- Where a link leads: whoever has it sets the password, once. -->
<script lang="ts">
	import { api } from '../api/client';

	const link = location.hash.slice(1);
	let password = $state('');
	let refused = $state('');
	let done = $state(false);

	async function set(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		refused = '';
		try {
			await api.POST('/api/v1/session/password', { body: { link, password } });
			done = true;
		} catch (error) {
			refused = (error as Error).message;
		}
	}
</script>

<main class="mx-auto grid min-h-screen max-w-sm content-center px-6">
	<h1 class="text-3xl">normant</h1>
	{#if done}
		<p class="my-4">The password is set.</p>
		<a class="do justify-self-start" href="/">Sign in</a>
	{:else}
		<form class="mt-4 grid gap-3" onsubmit={set}>
			<p>Choose a password for {link.split(':')[0] || 'your account'}, of at least ten characters.</p>
			<label>
				Password
				<input
					class="field mt-1 w-full"
					type="password"
					autocomplete="new-password"
					required
					minlength="10"
					bind:value={password}
				/>
			</label>
			{#if refused}<p class="text-oxblood" role="alert">{refused}</p>{/if}
			<button class="do justify-self-start">Set the password</button>
		</form>
	{/if}
</main>
