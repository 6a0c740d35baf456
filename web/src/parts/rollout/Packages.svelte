<!-- Driver packages that the house approved: with them a rollout installs what an errand would have. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { ask, queryClient } from '../../api/queries';
	import { moment } from '../../model/words/moment';
	import { storage } from '../../model/words/sizes';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import Ask from '../ui/Ask.svelte';
	import Refused from '../ui/Refused.svelte';

	const packages = createQuery(ask.packages);
	const approving = $derived(session.may('publish'));
	let serves = $state('');
	let version = $state('');
	let branch = $state('');
	let files = $state<FileList>();
	const acts = new Acts();

	const act = (what: () => Promise<Schemas['ListOf_PackageOut_']>): Promise<boolean> =>
		acts.do(async () => {
			queryClient.setQueryData(['standard', 'packages'], await what());
			[serves, version, branch, files] = ['', '', '', undefined];
		});

	function approve(event: SubmitEvent): void {
		event.preventDefault();
		const file = files?.[0];
		if (!file) return;
		void act(() => write.keepPackage({ serves, version, branch }, file));
	}

	const withdraw = (number: number) => act(() => write.withdrawPackage(number));
</script>

<details class="mt-4" data-packages>
	<summary class="anchor">Driver packages</summary>
	<p class="quiet my-2">
		A rollout can install a driver if its package is approved here. The agent checks the hash, asks before it
		restarts the machine, and verifies the new driver. With the package of the current driver, the change can
		be undone.
	</p>
	<Refused {acts} class="mb-2" />
	<Ask of={packages}>
		{#snippet children(found)}
			<ul>
				{#each found.items as one (one.id)}
					<li class="package" data-package={one.name}>
						<span>
							<span class="font-semibold">{one.serves.join(', ')}</span>
							<span class="value block">{one.version} {one.branch}</span>
						</span>
						<span class="quiet">
							{one.name}, {storage(one.size)}, approved by {one.kept_by}, {moment(one.kept_at)}
							<span class="value block" title={one.digest}>{one.digest.slice(0, 16)}</span>
						</span>
						{#if approving}
							<button class="may" onclick={() => withdraw(one.id)}
								>Delete<span class="sr-only"> {one.name}</span></button
							>
						{/if}
					</li>
				{:else}
					<li class="quiet border-t border-hair py-3">No packages: drivers are installed by errands.</li>
				{/each}
			</ul>
		{/snippet}
	</Ask>
	{#if approving}
		<form class="approve" onsubmit={approve}>
			<label
				><span>GPUs (comma-separated)</span>
				<input class="field" required maxlength="500" bind:value={serves} /></label
			>
			<label><span>Version</span> <input class="field" required maxlength="60" bind:value={version} /></label>
			<label><span>Branch</span> <input class="field" maxlength="60" bind:value={branch} /></label>
			<label><span>Installer</span> <input class="field" type="file" required bind:files /></label>
			<button class="do" disabled={acts.busy}>{acts.busy ? 'Uploading…' : 'Approve package'}</button>
		</form>
	{/if}
</details>

<style>
	.package {
		display: grid;
		grid-template-columns: 15rem minmax(0, 1fr) auto;
		gap: 1rem;
		align-items: start;
		border-top: 1px solid var(--hair);
		padding-block: 0.6rem;
	}
	.approve {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(13rem, 1fr));
		gap: 0.8rem;
		align-items: end;
		border-top: 1px solid var(--hair);
		padding-block: 0.8rem;
	}
	.approve label {
		display: grid;
		gap: 0.2rem;
	}
	@media (max-width: 640px) {
		.package {
			grid-template-columns: 1fr;
			gap: 0.3rem;
		}
	}
</style>
