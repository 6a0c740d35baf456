<!-- Teach where projects list their media: one of them is shown, with a cut that uses some of it. -->
<script lang="ts">
	import { PartLesson } from '../../state/teaching/partLesson.svelte';
	import LearntPart from './LearntPart.svelte';

	type Props = { app: string; text: string; onlearnt: (text: string) => void };
	let { app, text, onlearnt }: Props = $props();

	const lesson = new PartLesson();

	function show(list: FileList | null): void {
		if (list?.[0]) void lesson.learnProject(app, text, list[0]);
	}
</script>

<p class="quiet">
	Upload a small project (XML, JSON or OpenTimelineIO) in which a cut uses some of the media. Normant finds
	where the file lists its media from the form of the values.
</p>
<label class="mt-2 block max-w-md"
	>{app} project
	<input
		class="field mt-1 w-full"
		type="file"
		disabled={lesson.acts.busy}
		onchange={(event) => show(event.currentTarget.files)}
	/></label
>
<LearntPart {lesson} {onlearnt} />
