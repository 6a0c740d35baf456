<!-- An address is written to once the code of its letter came back. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { address: string };
	let { address }: Props = $props();

	let code = $state('');
	const acts = new Acts('notice', 'choice');

	async function act(what: () => Promise<unknown>): Promise<void> {
		if (await acts.do(what)) code = '';
	}

	function confirm(event: SubmitEvent): void {
		event.preventDefault();
		void act(() => write.confirmMail(code));
	}
</script>

<form class="mt-4 grid gap-2 border border-hair bg-sheet p-3" onsubmit={confirm} data-confirm>
	<p>Confirm {address} first: a mail with a code has been sent to it.</p>
	<label class="flex items-center gap-3">
		Code <input
			class="field w-32"
			inputmode="numeric"
			autocomplete="one-time-code"
			required
			bind:value={code}
		/>
	</label>
	<Refused {acts} />
	<p class="flex gap-3">
		<button class="may">Confirm</button>
		<button class="anchor" type="button" onclick={() => act(write.askForCode)}>Send another mail</button>
	</p>
</form>
