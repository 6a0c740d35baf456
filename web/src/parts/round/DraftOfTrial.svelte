<!-- A verdict that contradicts a rule, as a draft of the standard. -->
<script lang="ts">
	import { write } from '../../api/actions';
	import { Acts } from '../../state/acts.svelte';
	import { route } from '../../state/shell/route.svelte';

	type Props = { trial: number };
	let { trial }: Props = $props();
	const acts = new Acts('standard');

	async function draft(): Promise<void> {
		await acts.do(async () => route.go(`/standard?draft=${(await write.draftOfTrial(trial, false)).draft}`));
	}
</script>

<button class="may" disabled={acts.busy} title={acts.refused || undefined} onclick={draft}
	>Draft rule change</button
>
{#if acts.refused}<span class="text-oxblood" role="alert">{acts.refused}</span>{/if}
