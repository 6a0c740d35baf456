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
			Continue without the others
		</button>
	{:else if plan.state === 'planned' && plan.going}
		<button class="do" onclick={() => (open = 'sign')}>Sign clean-up…</button>
	{:else if plan.state === 'running'}
		<button class="may" onclick={() => (open = 'halt')}>Halt…</button>
	{:else if plan.state === 'halted'}
		<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.resumeClearing(plan.id))}>
			Resume
		</button>
	{/if}
	{#if plan.held}
		<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.putClearingBack(plan.id))}>
			Put back {storage(plan.held)}
		</button>
	{/if}
	{#if drops}
		<button class="may" disabled={acts.busy} onclick={() => acts.do(() => write.dropClearing(plan.id))}>
			Discard plan
		</button>
	{/if}
</div>
{#if open === 'sign'}
	<Sheet title="Sign clean-up" onclose={() => (open = '')}>
		<div class="grid gap-3">
			<p>{plan.sentence}</p>
			<p>
				Each file is checked again before it is deleted: files that were used, opened or changed since then
				are kept. 1 seat starts; the others follow when it has finished, outside booked hours.
			</p>
			<button class="do justify-self-start" disabled={acts.busy} onclick={sign}>
				Sign clean-up ({storage(plan.promised)})
			</button>
			{#if acts.refused}<p class="text-oxblood" role="alert">{acts.refused}</p>{/if}
		</div>
	</Sheet>
{:else if open === 'halt'}
	<Sheet title="Halt clean-up" onclose={() => (open = '')}>
		<form class="grid gap-3" onsubmit={halt}>
			<p>No more files are deleted. Work in progress finishes, and held files can be put back.</p>
			<label class="grid gap-1"
				>Reason <input class="field" bind:value={why} required maxlength="300" /></label
			>
			<button class="do justify-self-start" disabled={acts.busy}>Halt clean-up</button>
		</form>
	</Sheet>
{/if}
