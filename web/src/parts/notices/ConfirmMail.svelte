<!-- An address is written to once the code of its letter came back. -->
<script lang="ts">
	import { api } from '../../api/client';
	import { queryClient } from '../../api/queries';

	type Props = { address: string };
	let { address }: Props = $props();

	let code = $state('');
	let refused = $state('');

	async function act(done: Promise<unknown>): Promise<void> {
		refused = '';
		try {
			await done;
			code = '';
		} catch (error) {
			refused = (error as Error).message;
		}
		await queryClient.invalidateQueries({ queryKey: ['notice', 'choice'] });
	}

	function confirm(event: SubmitEvent): void {
		event.preventDefault();
		void act(api.POST('/api/v1/notices/confirm', { body: { code } }));
	}
</script>

<form class="mt-4 grid gap-2 border border-hair bg-sheet p-3" onsubmit={confirm} data-confirm>
	<p>Nothing is sent to {address} before it is confirmed: a letter with a code is on its way there.</p>
	<label class="flex items-center gap-3">
		Code <input
			class="field w-32"
			inputmode="numeric"
			autocomplete="one-time-code"
			required
			bind:value={code}
		/>
	</label>
	{#if refused}<p class="text-oxblood" role="alert">{refused}</p>{/if}
	<p class="flex gap-3">
		<button class="may">Confirm</button>
		<button class="anchor" type="button" onclick={() => act(api.POST('/api/v1/notices/code'))}
			>Send another letter</button
		>
	</p>
</form>
