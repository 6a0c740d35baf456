<!-- Problems of a project's media as proportions: bars of its items, and of their bytes. -->
<script lang="ts">
	import { projectShares, type ProjectRow } from '../../../model/stores/projects';

	type Props = { project: ProjectRow };
	let { project }: Props = $props();

	const shares = $derived(projectShares(project));
</script>

{#if shares.length}
	<dl>
		{#each shares as { name, share, words, problem } (name)}
			<div>
				<dt class="quiet text-sm">{name}</dt>
				<dd>
					<span class="track" aria-hidden="true">
						<span class:problem style:width="{100 * share}%"></span>
					</span>
					<span class="quiet text-sm">{words}</span>
				</dd>
			</div>
		{/each}
	</dl>
{/if}

<style>
	dl {
		display: grid;
		grid-template-columns: repeat(4, minmax(0, 1fr));
		gap: 0.2rem 1.4rem;
		margin-block: 0.3rem 0.2rem;
	}
	.track {
		display: block;
		height: 8px;
		background: var(--wash);
	}
	.track span {
		display: block;
		height: 100%;
		background: var(--kelp);
	}
	.track .problem {
		background: repeating-linear-gradient(135deg, var(--sienna) 0 4px, var(--sheet) 4px 6px);
	}
	@media (max-width: 40rem) {
		dl {
			grid-template-columns: repeat(2, minmax(0, 1fr));
		}
	}
</style>
