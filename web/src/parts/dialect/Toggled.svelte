<!-- What differs between the folders of a lesson: which of it was toggled, and what is noise. -->
<script lang="ts">
	import { quoted, type Lesson } from '../../state/teaching/lesson.svelte';

	type Props = { lesson: Lesson; found: NonNullable<Lesson['found']> };
	let { lesson, found }: Props = $props();
</script>

{#if !found.changed.length}
	<p class="mt-3" role="status">No difference between these files.</p>
{/if}
<fieldset class="mt-3">
	<legend class="quiet">Changes found</legend>
	{#each found.changed as toggled (toggled.file + toggled.at)}
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
{#if found.noise.length}
	<details class="quiet mt-1">
		<summary>{found.noise.length} ignored as noise</summary>
		{#each found.noise as noise (noise.file + noise.at)}
			<p><span class="value">{noise.at}</span> {noise.why}</p>
		{/each}
	</details>
{/if}
{#each found.unread as [file, why] (file)}
	<p class="quiet"><span class="value">{file}</span> could not be read: {why}</p>
{/each}
