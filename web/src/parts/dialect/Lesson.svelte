<!-- Teach a setting: toggle one thing in the application, show its preferences before and after. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { Lesson } from '../../state/teaching/lesson.svelte';
	import { heardOf } from '../../model/house/rooms';
	import Samples from './Samples.svelte';
	import Toggled from './Toggled.svelte';

	type Props = { app: string; text: string; onlearnt: (text: string) => void };
	let { app, text, onlearnt }: Props = $props();

	const STEPS = [
		['before', 'Before'],
		['after', 'After one setting changed'],
		['idle', 'Again with no change (optional)']
	] as const;
	const lesson = new Lesson();
	const floor = createQuery(ask.floor);
	const heard = $derived(heardOf(floor.data?.items ?? []));
	let seat = $state('');
	const counted = (files: number): string => (files ? `${files} ${files === 1 ? 'file' : 'files'}` : '');
</script>

<div>
	<p class="quiet">
		Select the preferences folder from before, and the one from after you changed a single setting and closed
		the application. Or use a seat: read its files now, change the setting, close the application, and read
		the files again.
	</p>
	<label class="mt-2 block max-w-xs"
		>Seat
		<select class="field mt-1 w-full" bind:value={seat}>
			<option value="">no seat: upload folders</option>
			{#each heard as place (place.name)}<option>{place.name}</option>{/each}
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
		<Toggled {lesson} found={lesson.found} />
	{/if}
	{#if lesson.chosen}
		<Samples {lesson} chosen={lesson.chosen} onlearn={() => lesson.learn(app, text)} />
	{/if}
	{#if lesson.refused}<p class="mt-2 text-oxblood" role="alert">{lesson.refused}</p>{/if}
	{#if lesson.learnt}
		<div class="mt-3" role="status">
			<p>{lesson.learnt.sure ? 'All samples explained' : 'Not certain yet'}: {lesson.learnt.why}.</p>
			<pre class="value mt-2 border border-hair bg-paper p-3 text-sm">{lesson.learnt.binding}</pre>
		</div>
		<button class="may mt-2" onclick={() => onlearnt(lesson.learnt?.text ?? '')}>Add to dialect</button>
	{/if}
</div>
