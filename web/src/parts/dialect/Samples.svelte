<!-- What the application showed for what its file held: two samples or more, from which the meaning is learnt. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import { quoted, type Lesson } from '../../state/teaching/lesson.svelte';

	type Props = { lesson: Lesson; chosen: NonNullable<Lesson['chosen']>; onlearn: () => Promise<unknown> };
	let { lesson, chosen, onlearn }: Props = $props();

	const MOST = 4; // samples
	const catalogue = createQuery(ask.catalogue);
	const likely = $derived(new Set(chosen.candidates.map((candidate) => candidate.setting)));
	const others = $derived((catalogue.data?.items ?? []).filter((setting) => !likely.has(setting.key)));

	function learn(event: SubmitEvent): void {
		event.preventDefault();
		void onlearn();
	}
</script>

<form class="mt-3 grid gap-3" onsubmit={learn}>
	<label class="max-w-md"
		>Setting
		<select class="field mt-1 w-full" required bind:value={lesson.setting}>
			{#each chosen.candidates as likely (likely.setting)}
				<option value={likely.setting}>{likely.title} (likely)</option>
			{/each}
			{#each others as other (other.key)}<option value={other.key}>{other.family}: {other.title}</option
				>{/each}
		</select></label
	>
	{#each lesson.samples as sample, index (index)}
		<div class="flex flex-wrap items-baseline gap-2">
			<span>When the file has</span>
			{#if index < 2}
				<span class="value">{quoted(index ? chosen.after : chosen.before)}</span>
			{:else}
				<input
					class="field w-32 py-1"
					aria-label="Value in the file, sample {index + 1}"
					bind:value={sample.native}
				/>
			{/if}
			<label
				>the application shows
				<input
					class="field w-40 py-1"
					aria-label="Value in the application, sample {index + 1}"
					bind:value={sample.told}
				/></label
			>
		</div>
	{/each}
	<div class="flex gap-3">
		<button class="do">Find rule</button>
		{#if lesson.samples.length < MOST}
			<button type="button" class="may" onclick={() => lesson.more()}>Add sample</button>
		{/if}
	</div>
</form>
