<!-- Teach where files of a store belong: some paths, with the production and project that they are of. -->
<script lang="ts">
	import { purposeWords, TAUGHT } from '../../model/stores/bars';
	import { PartLesson } from '../../state/teaching/partLesson.svelte';
	import LearntPart from './LearntPart.svelte';

	type Props = { app: string; text: string; onlearnt: (text: string) => void };
	let { app, text, onlearnt }: Props = $props();

	const lesson = new PartLesson();
	const PARTS = [
		['path', 'Path under the store, such as salt_ledger/reel_03/a.mkv'],
		['production', 'Production'],
		['project', 'Project']
	] as const;

	function learn(event: SubmitEvent): void {
		event.preventDefault();
		void lesson.learnStore(app, text);
	}
</script>

<form onsubmit={learn}>
	<p class="quiet">
		Enter a few files of a store with their production and project. Normant finds the pattern for all other
		paths.
	</p>
	<label class="mt-2 block max-w-xs"
		>Store
		<select class="field mt-1 w-full" bind:value={lesson.kind}>
			{#each TAUGHT as kind (kind)}<option value={kind}>{purposeWords(kind)}</option>{/each}
		</select></label
	>
	{#each lesson.samples as sample, number (number)}
		<fieldset class="mt-2 grid gap-2 md:grid-cols-[minmax(0,2fr)_minmax(0,1fr)_minmax(0,1fr)]">
			<legend class="quiet">File {number + 1}</legend>
			{#each PARTS as [part, label] (part)}
				<label
					>{label}
					<input class="field mt-1 w-full" required={part === 'path'} bind:value={sample[part]} /></label
				>
			{/each}
		</fieldset>
	{/each}
	<p class="mt-3 flex gap-3">
		<button class="do" disabled={lesson.acts.busy}>Find pattern</button>
		<button type="button" class="may" onclick={() => lesson.more()}>Add file</button>
	</p>
</form>
<LearntPart {lesson} {onlearnt} />
