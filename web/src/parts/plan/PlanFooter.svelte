<!-- What becomes of a plan: started, tried, written as errands, or left. -->
<script lang="ts">
	type Props = {
		changes: number;
		byHand: number;
		errands: boolean;
		busy: boolean;
		ready: boolean;
		onstart: () => void;
		ontry: () => void;
		onerrands: () => void;
		onclose: () => void;
	};
	let { changes, byHand, errands, busy, ready, onstart, ontry, onerrands, onclose }: Props = $props();
</script>

<footer class="sticky -bottom-4 mt-4 -mb-4 flex items-center gap-3 border-t border-hair bg-paper py-3">
	{#if changes === 0 && byHand}
		<button class="do" onclick={onerrands}>
			{byHand === 1 ? 'Write the errand' : `Write ${byHand} errands`}
		</button>
	{/if}
	{#if changes || !byHand}
		<button class="do" disabled={busy || changes === 0 || !ready} onclick={onstart}>
			{busy ? 'Starting…' : 'Start the rollout'}
		</button>
	{/if}
	{#if changes}<button class="may" onclick={ontry}>Make a dry run</button>{/if}
	<button class="may" onclick={onclose}>Not now</button>
	<span class="quiet">
		{#if changes && byHand && errands}
			{byHand === 1 ? 'One errand is' : `${byHand} errands are`} written for what a person has to do.
		{:else if changes}
			A copy of each file is kept first; every value is read back.
		{:else if byHand}
			No order can do this: somebody has to go there.
		{/if}
	</span>
</footer>
