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
			{byHand === 1 ? 'Create errand' : `Create ${byHand} errands`}
		</button>
	{/if}
	{#if changes || !byHand}
		<button class="do" disabled={busy || changes === 0 || !ready} onclick={onstart}>
			{busy ? 'Starting…' : 'Start rollout'}
		</button>
	{/if}
	{#if changes}<button class="may" onclick={ontry}>Dry run</button>{/if}
	<button class="may" onclick={onclose}>Cancel</button>
	<span class="quiet">
		{#if changes && byHand && errands}
			{byHand === 1 ? '1 errand' : `${byHand} errands`} will be created for work that needs a person.
		{:else if changes}
			Each file is backed up first, and every value is verified afterwards.
		{:else if byHand}
			Needs a person at the seat.
		{/if}
	</span>
</footer>
