<script lang="ts">
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Level from '../../parts/level/Level.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	let name = $state('');
	let password = $state('');
	const acts = new Acts();

	async function enter(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		await acts.do(() => session.signIn(name, password));
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
		<Refused {acts} />
		<button class="do justify-self-start" disabled={acts.busy}>{acts.busy ? 'Signing in…' : 'Sign in'}</button
		>
	</form>
</main>
