<!-- The report of a rollout that ended, in each of its forms. -->
<script lang="ts">
	type Props = { rollout: number; digest: string };
	let { rollout, digest }: Props = $props();

	const REPORTS = ['html', 'pdf', 'csv', 'json'];
	const isPage = (kind: string): boolean => kind === 'html' || kind === 'pdf';
</script>

<p class="quiet mt-2">
	Report (its hash is in the ledger):
	{#each REPORTS as kind (kind)}
		<a
			class="anchor ml-1.5 underline"
			href="/api/v1/rollouts/{rollout}/report?form={kind}"
			target={isPage(kind) ? '_blank' : undefined}
			rel="noreferrer"
			download={isPage(kind) ? undefined : ''}>{kind.toUpperCase()}</a
		>
	{/each}
	<span class="value" title={digest}>{digest.slice(0, 8)}</span>
</p>
