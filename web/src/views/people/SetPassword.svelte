<!-- Where a link leads: whoever has it sets the password, once. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	const link = location.hash.slice(1);
	let password = $state('');
	const acts = new Acts();
	let done = $state(false);

	async function set(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		done = await acts.do(() => write.setPassword(link, password));
	}
</script>

<main class="mx-auto grid min-h-screen max-w-sm content-center px-6">
	<h1 class="text-3xl">normant</h1>
	{#if done}
		<p class="my-4">Password saved.</p>
		<a class="do justify-self-start" href="/">Sign in</a>
	{:else}
		<form class="mt-4 grid gap-3" onsubmit={set}>
			<p>Choose a password for {link.split(':')[0] || 'your account'} with at least 10 characters.</p>
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
			<Refused {acts} />
			<button class="do justify-self-start">Save password</button>
		</form>
	{/if}
</main>
