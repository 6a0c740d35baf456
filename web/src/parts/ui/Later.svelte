<!-- A view that is fetched when it is first looked at: the editor of texts is larger than the rest together. -->
<script lang="ts">
	import type { Component } from 'svelte';

	type Props = { load: () => Promise<{ default: Component }> };
	let { load }: Props = $props();
</script>

{#await load()}
	<p class="quiet p-6" role="status">Loading…</p>
{:then { default: View }}
	<View />
{/await}
