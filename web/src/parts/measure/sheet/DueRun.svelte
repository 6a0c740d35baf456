<!-- Next run: its condition, where it stands, and the one thing to do next. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { moment } from '../../../model/words/moment';
	import { nameOf } from '../../../model/words/names';
	import OneTake from './OneTake.svelte';

	type Run = Schemas['SheetRunOut'];
	type Does = {
		take: (run: number) => unknown;
		end: (run: number) => unknown;
		leave: (run: number) => unknown;
		note: (run: number, take: number, seconds: number, dropped: number) => Promise<boolean>;
	};
	type Props = { sheet: Schemas['SheetOut']; run: Run; does: Does; busy: boolean };
	let { sheet, run, does, busy }: Props = $props();

	const byHand = $derived(sheet.by_hand);
	const watched = $derived(byHand.app !== '');
	const WATCHED = $derived(
		sheet.job === 'play'
			? `Play it ${run.needed} times in a row: the agent on ${sheet.seat} reads the ${nameOf(byHand.app ?? '')} statistics of each.`
			: `Export it ${run.needed} times in a row: the agent on ${sheet.seat} times each file.`
	);
	const others = $derived(run.taken_by !== '' && !run.mine);
</script>

<section class="mt-4" aria-label="Next run" data-state={run.state}>
	<p class="quiet">Block {run.block}, run {run.place} of {run.in_block}</p>
	<h2 class="text-xl">{run.condition}</h2>
	<p class="my-3 text-[1.15rem]">
		{sheet.job === 'play' ? 'Play' : 'Export'}: <span class="font-semibold">{byHand.what}</span>
	</p>
	{#if others}
		<p role="status">{run.taken_by} is doing this run.</p>
	{:else if run.state === 'free'}
		{#if sheet.message}<p class="mb-3 text-sienna">{sheet.message}.</p>{/if}
		<button class="do large" disabled={busy} onclick={() => does.take(run.id)}>Set this condition</button>
		<p class="quiet mt-2">
			Save your work first: applications that must be closed are closed and opened again. All files are
			restored automatically.
		</p>
	{:else if run.state === 'setting'}
		<p class="text-[1.15rem]" role="status">Setting it on {sheet.seat}… {sheet.message}</p>
	{:else if run.state === 'ending'}
		<p class="text-[1.15rem]" role="status">Restoring {sheet.seat}… {sheet.message}</p>
	{:else}
		<p class="mb-3 font-semibold" role="status">
			Condition set{run.until ? `, until ${moment(run.until)} at the latest` : ''}.
		</p>
		{#if watched}
			<p class="mb-3">{WATCHED} The first take does not count.</p>
			<button class="do large" disabled={busy} onclick={() => does.end(run.id)}
				>{sheet.job === 'play' ? 'Playback finished' : 'All exports finished'}</button
			>
		{:else}
			{#key run.takes.length}
				<OneTake
					plays={sheet.job === 'play'}
					take={run.takes.length}
					needed={run.needed}
					{busy}
					onnote={(seconds, dropped) => does.note(run.id, run.takes.length, seconds, dropped)}
				/>
			{/key}
		{/if}
	{/if}
	{#if run.mine && (run.state === 'set' || run.state === 'setting')}
		<button class="may mt-6 w-full" disabled={busy} onclick={() => does.leave(run.id)}
			>Cancel run and restore files</button
		>
	{/if}
</section>

<style>
	.large {
		width: 100%;
		min-height: 5rem;
		font-size: 1.25rem;
	}
</style>
