<!-- Ask whoever sits at a seat to close something, or to let the machine start again; it is never forced. -->
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
		onasked('asked at the seat; the ledger tells what came of it');
		onclose();
	}
</script>

<Sheet title="Ask at {seat}" {onclose}>
	<form class="grid gap-3" onsubmit={ask}>
		<label class="grid gap-1">
			<span>For what</span>
			<select class="field" bind:value={app}>
				<option value="">to let the machine start again</option>
				{#each apps as one (one)}<option value={one}>to close {nameOf(one)}</option>{/each}
			</select>
		</label>
		<label class="grid gap-1">
			<span>Why</span>
			<input class="field" maxlength="500" bind:value={why} />
		</label>
		<p class="quiet">
			They may put it off three times. Nothing is closed while work is unsaved, and nothing without their
			leave. A machine at which nobody sits and on which nothing is open starts again by itself.
		</p>
		<Refused {acts} />
		<p><button class="do">Ask</button></p>
	</form>
</Sheet>
