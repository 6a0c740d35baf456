<!-- The house, once somebody is signed in: header, the view of the address, and the sheets over it. -->
<script lang="ts">
	import FindSheet from './parts/shell/FindSheet.svelte';
	import Header from './parts/shell/Header.svelte';
	import KeysSheet from './parts/shell/KeysSheet.svelte';
	import PlanSheet from './parts/plan/PlanSheet.svelte';
	import ServerState from './parts/shell/ServerState.svelte';
	import WaiveSheet from './parts/drift/WaiveSheet.svelte';
	import { correction } from './state/correction.svelte';
	import { listen } from './state/keys';
	import { live } from './state/live.svelte';
	import { route } from './state/route.svelte';
	import { session } from './state/session.svelte';
	import { waiving } from './state/waiving.svelte';
	import Account from './views/Account.svelte';
	import Compare from './views/Compare.svelte';
	import Errand from './views/Errand.svelte';
	import Errands from './views/Errands.svelte';
	import Drift from './views/Drift.svelte';
	import Floor from './views/Floor.svelte';
	import Ledger from './views/Ledger.svelte';
	import MySeat from './views/MySeat.svelte';
	import Notices from './views/Notices.svelte';
	import Nowhere from './views/Nowhere.svelte';
	import People from './views/People.svelte';
	import Rollout from './views/Rollout.svelte';
	import Rollouts from './views/Rollouts.svelte';
	import Round from './views/Round.svelte';
	import Seat from './views/Seat.svelte';
	import Templates from './views/Templates.svelte';
	import Waivers from './views/Waivers.svelte';

	let sheet = $state<'find' | 'keys' | ''>('');
	const view = $derived(route.parts[0] ?? '');
	const part = $derived(route.parts[1] ?? '');
	const house = $derived(session.may('see the house'));

	$effect(() => live.start(() => session.look()));
	$effect(() => listen({ '/': () => (sheet = 'find'), '?': () => (sheet = 'keys') }));
</script>

<Header onfind={() => (sheet = 'find')} />
<ServerState />
<main class="mx-auto max-w-[1500px] px-4 py-5 md:px-6">
	{#if view === '' && house}
		<Round />
	{:else if view === '' && session.seat}
		<MySeat seat={session.seat} />
	{:else if view === '' || view === 'floor'}
		<Floor />
	{:else if view === 'seats' && part && route.parts[2] === 'compare'}
		{#key part}<Compare name={part} />{/key}
	{:else if view === 'seats' && part && !route.parts[2]}
		{#key part}<Seat name={part} />{/key}
	{:else if view === 'my-seat' && !part && session.seat}
		<MySeat seat={session.seat} />
	{:else if view === 'drift' && !part}
		<Drift />
	{:else if view === 'drift' && part === 'waivers'}
		<Waivers />
	{:else if view === 'standard' && part === 'templates'}
		<Templates />
	{:else if view === 'standard' && !part}
		{#await import('./views/Standard.svelte')}
			<p class="quiet p-6" role="status">Reading…</p>
		{:then { default: Standard }}
			<Standard />
		{/await}
	{:else if view === 'dialects'}
		{#await import('./views/Dialects.svelte')}
			<p class="quiet p-6" role="status">Reading…</p>
		{:then { default: Dialects }}
			<Dialects />
		{/await}
	{:else if view === 'rollouts' && /^\d+$/.test(part)}
		{#key part}<Rollout number={Number(part)} />{/key}
	{:else if view === 'rollouts' && !part}
		<Rollouts />
	{:else if view === 'errands' && /^\d+$/.test(part)}
		{#key part}<Errand number={Number(part)} />{/key}
	{:else if view === 'errands' && !part}
		<Errands />
	{:else if view === 'notices' && !part && house}
		<Notices />
	{:else if view === 'account' && !part}
		<Account />
	{:else if view === 'people' && !part && session.may('manage people')}
		<People />
	{:else if view === 'ledger'}
		<Ledger />
	{:else}
		<Nowhere />
	{/if}
</main>
{#if correction.findings.length}
	<PlanSheet />
{:else if waiving.open}
	<WaiveSheet />
{:else if sheet === 'find'}
	<FindSheet onclose={() => (sheet = '')} />
{:else if sheet === 'keys'}
	<KeysSheet onclose={() => (sheet = '')} />
{/if}
