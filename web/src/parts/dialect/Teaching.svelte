<!-- Teach by example: a setting, where files of a store belong, or where projects list their media. -->
<script lang="ts">
	import Lesson from './Lesson.svelte';
	import ProjectLesson from './ProjectLesson.svelte';
	import StoreLesson from './StoreLesson.svelte';

	type Props = { app: string; text: string; onlearnt: (text: string) => void };
	let props: Props = $props();

	const LESSONS = {
		'a setting': Lesson,
		'production and project of files': StoreLesson,
		'a project format': ProjectLesson
	};
	let what = $state<keyof typeof LESSONS>('a setting');
	const Chosen = $derived(LESSONS[what]);
</script>

<section aria-label="Teach by example" class="border border-hair bg-sheet p-4">
	<h2 class="text-base">Teach by example</h2>
	<label class="mt-1 mb-2 block max-w-xs"
		>What to teach
		<select class="field mt-1 w-full" bind:value={what}>
			{#each Object.keys(LESSONS) as lesson (lesson)}<option>{lesson}</option>{/each}
		</select></label
	>
	<Chosen {...props} />
</section>
