<!-- What can be done with a plan of clearing, each only where it would do something. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import type { Clearing } from '../../../model/stores/clearing';
	import { storage } from '../../../model/words/sizes';
	import type { Acts } from '../../../state/acts.svelte';
	import Sheet from '../../ui/Sheet.svelte';

	type Props = { plan: Clearing; acts: Acts };
	let { plan, acts }: Props = $props();

	let open = $state<'' | 'sign' | 'halt'>('');
	let why = $state('');

	const drops = $derived(['looking', 'planned', 'halted'].includes(plan.state));

	async function sign(): Promise<void> {
		if (await acts.do(() => write.signClearing(plan.id, plan.seen))) open = '';
	}
	async function halt(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.do(() => write.haltClearing(plan.id, why))) open = '';
	}
</script>

<div class="flex flex-wrap gap-3">
	{#if plan.state === 'looking'}
		<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.goWithout(plan.id))}>
			Go on without the others
		</button>
	{:else if plan.state === 'planned' && plan.going}
		<button class="do" onclick={() => (open = 'sign')}>Sign this plan…</button>
	{:else if plan.state === 'running'}
		<button class="may" onclick={() => (open = 'halt')}>Halt it…</button>
	{:else if plan.state === 'halted'}
		<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.resumeClearing(plan.id))}>
			Resume it
		</button>
	{/if}
	{#if plan.held}
		<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.putClearingBack(plan.id))}>
			Put back {storage(plan.held)}
		</button>
	{/if}
	{#if drops}
		<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.dropClearing(plan.id))}>
			Drop it
		</button>
	{/if}
</div>
{#if open === 'sign'}
	<Sheet title="Sign this plan" onclose={() => (open = '')}>
		<div class="grid gap-3">
			<p>{plan.sentence}</p>
			<p>
				Each item is looked at once more when its turn comes: what was used, opened or changed since stays.
				One seat goes first; the others follow when it is done, outside booked hours.
			</p>
			<button class="do justify-self-start" disabled={acts.busy} onclick={sign}>
				Sign, and let {storage(plan.promised)} go
			</button>
			{#if acts.refused}<p class="text-oxblood" role="alert">{acts.refused}</p>{/if}
		</div>
	</Sheet>
{:else if open === 'halt'}
	<Sheet title="Halt this plan" onclose={() => (open = '')}>
		<form class="grid gap-3" onsubmit={halt}>
			<p>Nothing more goes. What a seat is at comes to its end, and what is held can be put back.</p>
			<label class="grid gap-1">Why <input class="field" bind:value={why} required maxlength="300" /></label>
			<button class="do justify-self-start" disabled={acts.busy}>Halt it</button>
		</form>
	</Sheet>
{/if}
