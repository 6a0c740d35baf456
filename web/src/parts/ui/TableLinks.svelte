<!-- What a list shows, as a file. -->
<script lang="ts">
	type Props = { path: string; query?: Record<string, string> };
	let { path, query = {} }: Props = $props();

	const KINDS = ['csv', 'xlsx', 'json'];
	const address = (kind: string): string => `${path}?${new URLSearchParams({ ...query, as: kind })}`;
</script>

<span class="quiet whitespace-nowrap"
	>Download as
	{#each KINDS as kind (kind)}
		<a class="anchor ml-1.5 underline" href={address(kind)} download>{kind.toUpperCase()}</a>
	{/each}
</span>
