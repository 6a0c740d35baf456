<!-- What was learnt of a store or a project, and the way into the dialect. -->
<script lang="ts">
	import type { PartLesson } from '../../state/teaching/partLesson.svelte';
	import Refused from '../ui/Refused.svelte';

	type Props = { lesson: PartLesson; onlearnt: (text: string) => void };
	let { lesson, onlearnt }: Props = $props();
</script>

<Refused acts={lesson.acts} class="mt-2" />
{#if lesson.learnt}
	<div class="mt-3" role="status">
		<p>{lesson.learnt.sure ? 'All samples explained' : 'Not certain yet'}: {lesson.learnt.why}.</p>
		<pre class="value mt-2 overflow-x-auto border border-hair bg-paper p-3 text-sm">{lesson.learnt
				.learnt}</pre>
	</div>
	<button class="may mt-2" onclick={() => onlearnt(lesson.learnt?.text ?? '')}>Add to dialect</button>
{/if}
