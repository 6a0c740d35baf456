<!-- What can be done about a seat, and the sheets for it. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import EditSheet from '../floor/EditSheet.svelte';
	import LeaveSheet from '../floor/LeaveSheet.svelte';
	import AskSheet from './AskSheet.svelte';
	import ReadySheet from './delivery/ReadySheet.svelte';
	import ReadSheet from './ReadSheet.svelte';

	type Props = {
		seat: string;
		at: string;
		apps: string[];
		settled: number;
		standing: string;
		oncorrect: () => void;
	};
	let { seat, at, apps, settled, standing, oncorrect }: Props = $props();

	const acts = new Acts();
	let asked = $state('');
	let sheet = $state<'' | 'ask' | 'edit' | 'leave' | 'read' | 'ready'>('');
	const correcting = $derived(session.may('correct') && !at);

	async function readNow(): Promise<void> {
		asked = (await acts.do(() => write.askForSurvey(seat))) ? 'survey requested' : acts.refused;
	}
</script>

<div class="mt-3 mb-4 flex flex-wrap items-center gap-3">
	{#if correcting}
		{#if settled}<button class="do" onclick={oncorrect}>Correct all {settled}</button>{/if}
		<button class="may" onclick={readNow}>Survey now</button>
		<a class="may no-underline" href="/measure/new?seat={encodeURIComponent(seat)}">Run a trial</a>
		<button class="may" onclick={() => (sheet = 'ask')}>Ask editor…</button>
	{/if}
	{#if session.may('see the house')}
		<a class="may no-underline" href="/seats/{seat}/compare{at ? `?at=${encodeURIComponent(at)}` : ''}"
			>Compare</a
		>
	{/if}
	{#if !at}<button class="may" onclick={() => (sheet = 'ready')}>Ready to deliver?</button>{/if}
	{#if session.may('bring readings') && !at}
		<button class="may" onclick={() => (sheet = 'read')}>Enter reading</button>
	{/if}
	{#if correcting && session.may('enrol')}
		<button class="may" onclick={() => (sheet = 'edit')}>Edit seat</button>
		<button class="may" onclick={() => (sheet = 'leave')}>Retire or replace…</button>
	{/if}
	<p class="quiet" role="status">{asked || standing}</p>
</div>
{#if sheet === 'leave'}
	<LeaveSheet {seat} onclose={() => (sheet = '')} />
{:else if sheet === 'edit'}
	<EditSheet seats={[seat]} onclose={() => (sheet = '')} />
{:else if sheet === 'ready'}
	<ReadySheet {seat} onclose={() => (sheet = '')} />
{:else if sheet === 'ask'}
	<AskSheet {seat} {apps} onclose={() => (sheet = '')} onasked={(told) => (asked = told)} />
{:else if sheet === 'read'}
	<ReadSheet {seat} {apps} onclose={() => (sheet = '')} />
{/if}
