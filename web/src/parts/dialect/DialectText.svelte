<!-- A dialect's text: edited, tried on a seat, taught by example, and kept as its next version. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { untrack } from 'svelte';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { readAnew } from '../../api/anew';
	import { ask } from '../../api/queries';
	import { heardOf } from '../../model/house/rooms';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import { editor } from '../standard/editor.svelte';
	import Teaching from './Teaching.svelte';
	import Trial from './Trial.svelte';

	type Props = { app: string; kept: string; number: number; onkept: (app: string) => void };
	let { app, kept, number, onkept }: Props = $props();

	const floor = createQuery(ask.floor);
	const heard = $derived(heardOf(floor.data?.items ?? []));
	const mine = $derived(session.may('publish'));
	// svelte-ignore state_referenced_locally (another version makes another editor: the parent keys by number)
	let text = $state(kept);
	// svelte-ignore state_referenced_locally
	let shown = $state(kept); // what the editor was opened with
	let seat = $state('');
	let tried = $state<{ seat: string; items: Schemas['TriedOut'][] }>(); // the result belongs to the seat it was read on
	const acts = new Acts();
	const quietly = new Acts(); // what nobody asked for is not told where it fails
	const faults = $derived(acts.problem?.faults ?? []);
	let teaching = $state(false);

	const admits = $derived(acts.problem?.folders ?? []); // folders that no seat was asked for before

	const tryOn = (): Promise<boolean> =>
		acts.do(async () => {
			const requested = seat;
			tried = { seat: requested, items: (await write.tryDialect(text, requested)).items };
		});

	const LOOKED = 32; // seats that are looked at for one that has the application
	let looked = false;

	/** What the kept text reads on the first seat that has the application: there is something to see at once. */
	async function firstTrial(seats: string[]): Promise<void> {
		for (const name of seats.slice(0, LOOKED)) {
			const { items } = await write.tryDialect(kept, name);
			if (seat || tried) return;
			if (items.some((item) => item.value !== null)) [seat, tried] = [name, { seat: name, items }];
		}
	}

	$effect(() => {
		const names = heard.map((place) => place.name);
		if (looked || !mine || !kept || !names.length) return;
		looked = true;
		void untrack(() => quietly.do(() => firstTrial(names)));
	});

	const keep = (admitted: string[] = []): Promise<boolean> =>
		acts.do(async () => {
			const { app: name } = await write.keepDialect(text, number, admitted);
			await readAnew(['dialect']);
			onkept(name);
		});

	function learnt(whole: string): void {
		text = whole;
		shown = whole;
	}
</script>

<div class="grid gap-5 lg:grid-cols-[minmax(0,1fr)_22rem]">
	<div class="grid content-start gap-4">
		{#if teaching}<Teaching {app} {text} onlearnt={learnt} />{/if}
		{#key shown}
			<div
				class="border border-rule bg-sheet"
				{@attach editor({
					text: shown,
					label: `Dialect of ${app}`,
					readonly: !mine,
					faults: () => faults,
					onchange: (now) => (text = now)
				})}
			></div>
		{/key}
	</div>
	<aside aria-label="Test" class="lg:sticky lg:top-4 lg:self-start">
		{#if mine}
			<button class="may" aria-pressed={teaching} onclick={() => (teaching = !teaching)}
				>Teach by example</button
			>
			<div class="mt-4 flex items-end gap-2">
				<label class="grow"
					>Test on seat <select class="field mt-1 w-full" bind:value={seat}>
						<option value="" disabled>select a seat</option>
						{#each heard as one (one.name)}
							<option>{one.name}</option>
						{/each}
					</select></label
				>
				<button class="may" disabled={!seat} onclick={tryOn}>Test</button>
			</div>
			{#if acts.refused}
				{@render why()}
			{/if}
			<button class="do mt-4" disabled={text === kept} onclick={() => keep()}
				>Save version {number + 1}</button
			>
		{:else}
			<p class="quiet">Only supervisors may change dialects.</p>
		{/if}
		{#if tried}
			<Trial seat={tried.seat} tried={tried.items} />
		{/if}
	</aside>
</div>

{#snippet why()}
	<div class="mt-3 text-oxblood" role="alert">
		{#each faults as fault, index (index)}
			<p>Line {fault.line}: {fault.message}{fault.expected ? `; expected ${fault.expected}` : ''}</p>
		{:else}
			<p>{acts.refused}</p>
		{/each}
		{#if admits.length}
			<button class="may mt-2" onclick={() => keep(admits)}>Allow {admits.join(', ')} and save</button>
		{/if}
	</div>
{/snippet}
