<!-- Tokens by which one's scripts are let in: made, shown once, withdrawn. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { SCOPES, type Account } from '../../state/shell/account.svelte';
	import { ago, moment } from '../../model/words/moment';

	type Props = { tokens: Schemas['TokenOut'][]; acts: Account };
	let { tokens, acts }: Props = $props();

	let name = $state('');
	let scope = $state<Schemas['Scope']>('read');
	let days = $state(90);

	async function make(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.makeToken(name.trim(), scope, days)) name = '';
	}
</script>

<section aria-labelledby="tokens">
	<h2 id="tokens" class="mb-2 text-lg">Tokens for scripts</h2>
	{#if acts.token}
		<p class="mb-3 border border-hair bg-sheet p-3" data-token>
			Token {acts.token.name}, shown only once:
			<span class="value mt-1 block break-all">{acts.token.token}</span>
		</p>
	{/if}
	<ul>
		{#each tokens as token (token.id)}
			<li class="flex flex-wrap items-baseline gap-x-5 border-t border-hair py-2">
				<span class="min-w-40 flex-1">{token.name}</span>
				<span class="quiet">{SCOPES[token.scope]}</span>
				<span class="quiet">
					{token.ends_at ? `ends ${moment(token.ends_at)}` : 'no end date'}, used {ago(token.last_used_at)}
				</span>
				<button class="anchor" onclick={() => acts.withdraw(token.id)}>Revoke</button>
			</li>
		{:else}
			<li class="quiet border-t border-hair py-2">
				No tokens yet. Scripts send a token as <span class="value">Authorization: Bearer …</span>
			</li>
		{/each}
	</ul>
	<form class="mt-4 flex flex-wrap items-end gap-3" onsubmit={make}>
		<label>Purpose <input class="field mt-1" required maxlength="80" bind:value={name} /></label>
		<label>
			Permissions
			<select class="field mt-1" bind:value={scope}>
				{#each Object.entries(SCOPES) as [value, words] (value)}<option {value}>{words}</option>{/each}
			</select>
		</label>
		<label>
			Valid for (days) <input
				class="field mt-1 w-20"
				type="number"
				min="1"
				max="366"
				required
				bind:value={days}
			/>
		</label>
		<button class="may" disabled={acts.busy}>Create token</button>
	</form>
</section>
