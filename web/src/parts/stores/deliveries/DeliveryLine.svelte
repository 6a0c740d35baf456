<!-- A delivery: the file and its project, who answers for it, and what can be done with it. -->
<script lang="ts">
	import { write } from '../../../api/actions';
	import type { Schemas } from '../../../api/client';
	import { moment } from '../../../model/words/moment';
	import { storage } from '../../../model/words/sizes';
	import type { Acts } from '../../../state/acts.svelte';
	import AssignDelivery from './AssignDelivery.svelte';
	import SignDelivery from './SignDelivery.svelte';

	type Props = { row: Schemas['DeliveredOut']; acts: Acts; may: boolean };
	let { row, acts, may }: Props = $props();

	let open = $state<'sign' | 'assign' | 'withdraw'>();
	const toggle = (form: typeof open) => (open = open === form ? undefined : form);
	const close = () => (open = undefined);
	const assigned = $derived(Boolean(row.production && row.project_app));
	let reason = $state('');

	const inspected = $derived(
		row.flaws === null ? 'not inspected' : row.flaws ? `inspected: ${row.flaws} flaws` : 'inspected: no flaws'
	);
	let asked = $state(false);
	const layBeside = (): Promise<unknown> => write.layInspectionBeside(row.id, row.inspected ?? '');
	async function inspect(): Promise<void> {
		const body = { app: row.app, file: row.file, specification: '' };
		asked = await acts.do(() => write.inspectExport(row.seat ?? '', body));
	}
	async function withdraw(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await acts.do(() => write.withdrawDelivery(row.id, reason))) close();
	}
</script>

<li class="border-t border-hair py-2">
	<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
		<span class="font-semibold">{row.project}</span>
		<span class={row.production ? 'quiet' : 'text-sienna'}>{row.production || 'no production'}</span>
		<span class="value min-w-0 flex-1 break-all">{row.file}</span>
		<span class="value whitespace-nowrap">{storage(row.size)}</span>
	</div>
	<p class="quiet">
		Finished {moment(row.finished_at)}{row.seat ? ` on ${row.seat}` : ''}, proposed by {row.proposed_by}; {inspected};
		<span class="value" title={row.digest}>{row.digest.slice(0, 12)}…</span>
		{#if row.signed_by}
			· signed by {row.signed_by}, {moment(row.signed_at)}{/if}
		{#if row.reason}
			· withdrawn: {row.reason}{/if}
	</p>
	{#if may && row.state !== 'withdrawn'}
		<p class="mt-1 flex flex-wrap gap-x-3 gap-y-2">
			{#if row.state === 'proposed' && assigned}
				<button class="do" aria-expanded={open === 'sign'} onclick={() => toggle('sign')}>Sign…</button>
			{/if}
			{#if row.state === 'proposed' || !assigned}
				<button
					class={assigned ? 'may' : 'do'}
					aria-expanded={open === 'assign'}
					onclick={() => toggle('assign')}
				>
					Assign…
				</button>
			{/if}
			{#if row.inspected}
				<button class="may" disabled={acts.busy} onclick={() => acts.do(layBeside)}>
					Attach inspection
				</button>
			{:else if row.seat && row.app && row.inspection === null && row.state === 'proposed'}
				<button class="may" disabled={asked || acts.busy} onclick={inspect}>
					{asked ? `${row.seat} inspects the file` : 'Inspect file'}
				</button>
			{/if}
			<button class="may" aria-expanded={open === 'withdraw'} onclick={() => toggle('withdraw')}
				>Withdraw…</button
			>
		</p>
	{/if}
	{#if open === 'sign'}
		<SignDelivery {row} {acts} onclose={close} />
	{:else if open === 'assign'}
		<AssignDelivery {row} {acts} onclose={close} />
	{:else if open === 'withdraw'}
		<form class="mt-2 flex flex-wrap items-end gap-3" onsubmit={withdraw}>
			<label class="grid gap-1"
				>Reason <input class="field w-80" bind:value={reason} required maxlength="300" /></label
			>
			<button class="do" disabled={acts.busy}>Withdraw delivery</button>
			<button class="may" type="button" onclick={close}>Cancel</button>
		</form>
	{/if}
</li>
