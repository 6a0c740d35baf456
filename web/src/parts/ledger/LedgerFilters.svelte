<!-- Which entries of the ledger are shown: by who, what, seat and day. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { route } from '../../state/shell/route.svelte';

	type Props = { wanted: { actor: string; action: string; seat: string; day: string } };
	let { wanted }: Props = $props();

	const names = createQuery(ask.ledgerNames);
	const filtered = $derived(Object.values(wanted).some(Boolean));

	function choose(
		name: string,
		event: Event & { currentTarget: HTMLInputElement | HTMLSelectElement }
	): void {
		route.filter('from', '');
		route.filter(name, event.currentTarget.value);
	}
</script>

<form class="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2" onsubmit={(event) => event.preventDefault()}>
	<label class="grid gap-0.5"
		>Who<select class="field h-9 py-1" value={wanted.actor} onchange={(event) => choose('who', event)}>
			<option value="">all people</option>
			{#each names.data?.actors ?? [] as actor (actor)}<option>{actor}</option>{/each}
		</select></label
	>
	<label class="grid gap-0.5"
		>Action<select class="field h-9 py-1" value={wanted.action} onchange={(event) => choose('act', event)}>
			<option value="">all actions</option>
			{#each names.data?.actions ?? [] as action (action)}<option value={action}
					>{action.replaceAll('_', ' ')}</option
				>{/each}
		</select></label
	>
	<label class="grid gap-0.5"
		>Seat<input
			class="field h-9 py-1"
			value={wanted.seat}
			placeholder="any"
			onchange={(event) => choose('seat', event)}
		/></label
	>
	<label class="grid gap-0.5"
		>Day<input
			class="field h-9 py-1"
			type="date"
			value={wanted.day}
			onchange={(event) => choose('day', event)}
		/></label
	>
	{#if filtered}<a class="may no-underline" href="/ledger">Clear filters</a>{/if}
</form>
