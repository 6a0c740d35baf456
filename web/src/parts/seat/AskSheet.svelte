<!-- Ask whoever sits at a seat to close something, or restart the machine; it is never forced. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import { nameOf } from '../../model/words/names';
	import { Acts } from '../../state/acts.svelte';
	import Refused from '../ui/Refused.svelte';
	import Sheet from '../ui/Sheet.svelte';

	type Props = { seat: string; apps: string[]; onclose: () => void; onasked: (told: string) => void };
	let { seat, apps, onclose, onasked }: Props = $props();

	let app = $state('');
	let why = $state('');
	const acts = new Acts();

	async function ask(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (!(await acts.do(() => write.askAt(seat, app, why)))) return;
		onasked('request sent; see the ledger for the answer');
		onclose();
	}
</script>

<Sheet title="Ask the editor of {seat}" {onclose}>
	<form class="grid gap-3" onsubmit={ask}>
		<label class="grid gap-1">
			<span>Request</span>
			<select class="field" bind:value={app}>
				<option value="">restart the machine</option>
				{#each apps as one (one)}<option value={one}>close {nameOf(one)}</option>{/each}
			</select>
		</label>
		<label class="grid gap-1">
			<span>Reason</span>
			<input class="field" maxlength="500" bind:value={why} />
		</label>
		<p class="quiet">
			The editor can postpone the request 3 times. Nothing is closed without their consent or while work is
			unsaved. An idle machine with no open applications restarts without asking.
		</p>
		<Refused {acts} />
		<p><button class="do">Send request</button></p>
	</form>
</Sheet>
