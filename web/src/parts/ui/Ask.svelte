<!-- A question to the server: its answer, or that it is on its way, or why there is none and what to do. -->
<script lang="ts" generics="T">
	import type { Snippet } from 'svelte';
	import { Problem } from '../../api/client';

	type Answer = { data: T | undefined; error: Error | null; isPending: boolean; refetch: () => unknown };
	type Props = { of: Answer; children: Snippet<[T]>; waiting?: string };
	let { of, children, waiting = 'Reading…' }: Props = $props();

	const refused = $derived(of.error instanceof Problem && of.error.status === 403);
</script>

{#if of.data !== undefined}
	{@render children(of.data)}
{:else if of.isPending}
	<p class="quiet p-6" role="status">{waiting}</p>
{:else}
	<div class="p-6" role="alert">
		<h2 class="text-lg">{refused ? 'You do not have permission to see this' : 'Loading failed'}</h2>
		<p class="mt-1">{of.error?.message}</p>
		{#if !refused}
			<button class="may mt-3" onclick={() => of.refetch()}>Try again</button>
		{/if}
	</div>
{/if}
