<!-- Teach by example: toggle one thing in the application, show its preferences before and after. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { Lesson } from '../../state/lesson.svelte';
	import { heardOf } from '../../model/house/rooms';

	type Props = { app: string; text: string; onlearnt: (text: string) => void };
	let { app, text, onlearnt }: Props = $props();

	const STEPS = [
		['before', 'Before'],
		['after', 'After one thing was toggled'],
		['idle', 'Again, with nothing toggled (if you like)']
	] as const;
	const MOST = 4; // samples
	const lesson = new Lesson();
	const catalogue = createQuery(ask.catalogue);
	const floor = createQuery(ask.floor);
	const heard = $derived(heardOf(floor.data?.items ?? []));
	let seat = $state('');
	const likely = $derived(new Set(lesson.chosen?.candidates.map((one) => one.setting) ?? []));
	const others = $derived((catalogue.data?.items ?? []).filter((one) => !likely.has(one.key)));
	const counted = (files: number): string => (files ? `${files} ${files === 1 ? 'file' : 'files'}` : '');
	const quoted = (value: string | null): string => (value === null ? 'not there' : `"${value}"`);
</script>

<section aria-label="Teach by example" class="border border-hair bg-sheet p-4">
	<h2 class="text-base">Teach by example</h2>
	<p class="quiet">
		Choose the folder of preferences as it was, and as it is after one thing was toggled in the application
		and it was closed. Or watch a seat: read its files now, toggle, close, and read them again.
	</p>
	<label class="mt-2 block max-w-xs"
		>Seat to watch
		<select class="field mt-1 w-full" bind:value={seat}>
			<option value="">none: I bring folders</option>
			{#each heard as one (one.name)}<option>{one.name}</option>{/each}
		</select></label
	>
	<div class="mt-3 grid gap-3 md:grid-cols-3">
		{#each STEPS as [snapshot, label] (snapshot)}
			<div>
				{#if seat}
					<p>{label}</p>
					<button
						class="may mt-1"
						disabled={lesson.asking !== ''}
						aria-label="{label}: read {seat} now"
						onclick={() => lesson.watch(snapshot, app, seat)}
						>{lesson.asking === snapshot ? 'Reading…' : `Read ${seat} now`}</button
					>
				{:else}
					<label
						>{label}
						<input
							class="field mt-1 w-full"
							type="file"
							webkitdirectory
							multiple
							onchange={(event) => lesson.take(snapshot, event.currentTarget.files)}
						/></label
					>
				{/if}
				<p class="quiet" role="status">
					{counted(lesson.count(snapshot))}
				</p>
			</div>
		{/each}
	</div>
	{#if lesson.found}
		{#if !lesson.found.changed.length}
			<p class="mt-3" role="status">Nothing was toggled that these files hold.</p>
		{/if}
		<fieldset class="mt-3">
			<legend class="quiet">What was toggled</legend>
			{#each lesson.found.changed as toggled (toggled.file + toggled.at)}
				<label class="flex items-baseline gap-2">
					<input
						type="radio"
						name="toggled"
						checked={lesson.chosen === toggled}
						onchange={() => lesson.choose(toggled)}
					/>
					<span
						><span class="value">{toggled.file}</span> at <span class="value">{toggled.at}</span>:
						<span class="value">{quoted(toggled.before)}</span> became
						<span class="value">{quoted(toggled.after)}</span></span
					>
				</label>
			{/each}
		</fieldset>
		{#if lesson.found.noise.length}
			<details class="quiet mt-1">
				<summary>{lesson.found.noise.length} left out as noise</summary>
				{#each lesson.found.noise as noise (noise.file + noise.at)}
					<p><span class="value">{noise.at}</span> {noise.why}</p>
				{/each}
			</details>
		{/if}
		{#each lesson.found.unread as [file, why] (file)}
			<p class="quiet"><span class="value">{file}</span> could not be read: {why}</p>
		{/each}
	{/if}
	{#if lesson.chosen}
		<form
			class="mt-3 grid gap-3"
			onsubmit={(event) => (event.preventDefault(), void lesson.learn(app, text))}
		>
			<label class="max-w-md"
				>It is
				<select class="field mt-1 w-full" required bind:value={lesson.setting}>
					{#each lesson.chosen.candidates as one (one.setting)}
						<option value={one.setting}>{one.title} (likely)</option>
					{/each}
					{#each others as one (one.key)}<option value={one.key}>{one.family}: {one.title}</option>{/each}
				</select></label
			>
			{#each lesson.samples as sample, index (index)}
				<div class="flex flex-wrap items-baseline gap-2">
					<span>With</span>
					{#if index < 2}
						<span class="value">{quoted(index ? lesson.chosen.after : lesson.chosen.before)}</span>
					{:else}
						<input
							class="field w-32 py-1"
							aria-label="What the file held, sample {index + 1}"
							bind:value={sample.native}
						/>
					{/if}
					<label
						>the application shows
						<input
							class="field w-40 py-1"
							aria-label="What the application showed, sample {index + 1}"
							bind:value={sample.told}
						/></label
					>
				</div>
			{/each}
			<div class="flex gap-3">
				<button class="do">Learn it</button>
				{#if lesson.samples.length < MOST}
					<button type="button" class="may" onclick={() => lesson.more()}>Another sample</button>
				{/if}
			</div>
		</form>
	{/if}
	{#if lesson.refused}<p class="mt-2 text-oxblood" role="alert">{lesson.refused}</p>{/if}
	{#if lesson.learnt}
		<div class="mt-3" role="status">
			<p>{lesson.learnt.sure ? 'This explains every sample' : 'Not sure yet'}: {lesson.learnt.why}.</p>
			<pre class="value mt-2 border border-hair bg-paper p-3 text-sm">{lesson.learnt.binding}</pre>
		</div>
		<button class="may mt-2" onclick={() => onlearnt(lesson.learnt?.text ?? '')}
			>Put it into the dialect</button
		>
	{/if}
</section>
