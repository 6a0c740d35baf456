<!-- A rollout that waits for its hour: let it begin before that, and say why. -->
<script lang="ts">
	type Props = { onbegin: (why: string) => Promise<boolean> };
	let { onbegin }: Props = $props();

	let asking = $state(false);
	let why = $state('');

	async function begin(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (await onbegin(why)) asking = false;
	}
</script>

{#if asking}
	<form class="flex flex-wrap items-center gap-2" onsubmit={begin}>
		<label class="flex items-center gap-2">Reason <input bind:value={why} required maxlength="300" /></label>
		<button class="do">Start rollout now</button>
		<button class="may" type="button" onclick={() => (asking = false)}>Cancel</button>
	</form>
{:else}
	<button class="may" onclick={() => (asking = true)}>Start now…</button>
{/if}
