<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { untrack } from 'svelte';
	import { ask } from '../../api/queries';
	import type { Draft } from '../../state/draft.svelte';
	import { editor } from './editor.svelte';

	type Props = { draft: Draft; readonly: boolean };
	let { draft, readonly }: Props = $props();

	const words = createQuery(ask.words);
	const text = untrack(() => draft.text); // from here on the editor has it
</script>

<div
	class="border border-rule bg-sheet"
	{@attach editor({
		text,
		readonly,
		faults: () => draft.faults,
		words: () => words.data,
		onchange: (now) => draft.write(now)
	})}
></div>
