<!-- Addresses that are told by signed webhook, and a test of every way. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { hooks: Schemas['HookOut'][]; reachable: boolean };
	let { hooks, reachable }: Props = $props();

	let made = $state<Schemas['HookOut']>();
	const acts = new Acts('notice');
	let address = $state('');

	const add = (event: SubmitEvent): Promise<boolean> => {
		event.preventDefault();
		return acts.do(async () => {
			made = await write.addHook(address.trim());
			address = '';
		});
	};
	const drop = (number: number): Promise<boolean> =>
		acts.do(async () => {
			await write.dropHook(number);
			if (made?.id === number) made = undefined;
		});
	const tryOut = (): Promise<boolean> => acts.do(write.tryNotices);
</script>

<h3 class="mb-1 mt-6 text-base font-semibold">Webhooks</h3>
<p class="quiet mb-2">Signed as Standard Webhooks specifies, so that the receiver can verify the sender.</p>
<ul>
	{#each hooks as hook (hook.id)}
		<li class="hook" data-hook={hook.id}>
			<span class="value min-w-0 break-all">{hook.address}</span>
			<button class="may" onclick={() => drop(hook.id)} aria-label="Delete webhook {hook.address}"
				>Delete</button
			>
			{#if hook.gone_at}<span class="text-sienna">unsubscribed since {moment(hook.gone_at)}</span>{/if}
			{#if made?.id === hook.id}
				<p class="secret" role="status">
					Secret (shown only once): <span class="value break-all">{made.secret}</span>
				</p>
			{/if}
		</li>
	{/each}
</ul>
<form class="mt-2 flex gap-2" onsubmit={add}>
	<input
		class="field"
		type="url"
		bind:value={address}
		required
		placeholder="https://"
		aria-label="Webhook address"
	/>
	<button class="may whitespace-nowrap">Add webhook</button>
</form>
<Refused {acts} class="mt-2" />
<p class="mt-4"><button class="may" disabled={!reachable} onclick={tryOut}>Send test</button></p>

<style>
	.hook {
		display: flex;
		flex-wrap: wrap;
		gap: 0.3rem 1rem;
		justify-content: space-between;
		align-items: center;
		border-top: 1px solid var(--hair);
		padding-block: 0.4rem;
	}
	.secret {
		flex-basis: 100%;
	}
</style>
