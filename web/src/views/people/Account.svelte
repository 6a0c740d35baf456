<!-- One's own account: the password, and tokens for scripts. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import OwnTokens from '../../parts/people/OwnTokens.svelte';
	import { Account } from '../../state/shell/account.svelte';

	const account = createQuery(ask.account);
	const acts = new Account();
	let old = $state('');
	let fresh = $state('');

	async function change(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.changePassword(old, fresh)) [old, fresh] = ['', ''];
	}
</script>

<svelte:head><title>My account · Normant</title></svelte:head>
<Ask of={account}>
	{#snippet children(found)}
		<h1 class="mb-1 text-2xl">My account</h1>
		<p class="quiet mb-5">{found.name}, {found.role}{found.seat ? ` , seat ${found.seat}` : ''}</p>
		{#if acts.refused}<p class="mb-3 text-oxblood" role="alert">{acts.refused}</p>{/if}
		<div class="grid gap-10 lg:grid-cols-[20rem_minmax(0,1fr)]">
			<section aria-labelledby="password">
				<h2 id="password" class="mb-2 text-lg">Password</h2>
				<form class="grid gap-3" onsubmit={change}>
					<label>
						Current password
						<input
							class="field mt-1 w-full"
							type="password"
							autocomplete="current-password"
							required
							bind:value={old}
						/>
					</label>
					<label>
						New password
						<input
							class="field mt-1 w-full"
							type="password"
							autocomplete="new-password"
							required
							minlength="10"
							bind:value={fresh}
						/>
					</label>
					<p class="flex items-center gap-3">
						<button class="do" disabled={acts.busy}>Change password</button>
						<span class="quiet" role="status">{acts.said}</span>
					</p>
					<p class="quiet">Your other sessions will be signed out.</p>
				</form>
			</section>
			<OwnTokens tokens={found.tokens} {acts} />
		</div>
	{/snippet}
</Ask>
