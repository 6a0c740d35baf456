<!-- The house, once somebody is signed in: header, the view of the address, and the sheets over it. -->
<script lang="ts">
	import FindSheet from './parts/shell/FindSheet.svelte';
	import Header from './parts/shell/Header.svelte';
	import KeysSheet from './parts/shell/KeysSheet.svelte';
	import PlanSheet from './parts/plan/PlanSheet.svelte';
	import ServerState from './parts/shell/ServerState.svelte';
	import WaiveSheet from './parts/drift/WaiveSheet.svelte';
	import { correction } from './state/correction.svelte';
	import { listen } from './state/shell/keys';
	import { live } from './state/shell/live.svelte';
	import { route } from './state/shell/route.svelte';
	import { session } from './state/shell/session.svelte';
	import { waiving } from './state/waiving.svelte';
	import { viewAt } from './views/routes';

	let sheet = $state<'find' | 'keys' | ''>('');
	const shown = $derived(
		viewAt(route.parts, {
			house: session.may('see the house'),
			people: session.may('manage people'),
			seat: session.seat ?? ''
		})
	);

	$effect(() => live.start(() => session.look()));
	$effect(() => listen({ '/': () => (sheet = 'find'), '?': () => (sheet = 'keys') }));
</script>

<Header onfind={() => (sheet = 'find')} />
<ServerState />
<main class="mx-auto max-w-[1500px] px-4 py-5 md:px-6">
	{#key shown.key}
		<shown.view {...shown.given} />
	{/key}
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
