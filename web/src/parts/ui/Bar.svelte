<!-- The one bar of actions that a selection brings up. -->
<script lang="ts">
	type Props = {
		says: string;
		can: boolean;
		oncorrect: () => void;
		onclear: () => void;
		onwaive?: (() => void) | undefined;
		onmeasure?: (() => void) | undefined;
		onedit?: (() => void) | undefined;
	};
	let { says, can, oncorrect, onclear, onwaive, onmeasure, onedit }: Props = $props();
</script>

<div
	class="sticky bottom-3 z-10 mt-4 flex w-fit items-center gap-3 border border-kelp bg-sheet px-4 py-2 shadow-lg"
	role="region"
	aria-label="Selection"
>
	<span role="status">{says}</span>
	<button class="do" disabled={!can} onclick={oncorrect}>Correct <kbd>c</kbd></button>
	{#if onwaive}<button class="may" onclick={onwaive}>Waive <kbd>w</kbd></button>{/if}
	{#if onmeasure}<button class="may" onclick={onmeasure}>Measure <kbd>m</kbd></button>{/if}
	{#if onedit}<button class="may" onclick={onedit}>Edit seats</button>{/if}
	<button class="may" onclick={onclear}>Clear selection <kbd>Esc</kbd></button>
</div>

<style>
	.do kbd {
		border-color: currentColor;
	}
</style>
