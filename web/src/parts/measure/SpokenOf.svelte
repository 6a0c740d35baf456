<!-- What a trial says of rules of the standard in force. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { nameOf } from '../../model/words/names';

	type Props = { spoken: Schemas['EvidenceOut'][]; onattach?: (() => void) | undefined };
	let { spoken, onattach }: Props = $props();

	const measured = $derived(spoken.some(({ grade }) => grade === 'measured'));
	const about = (row: Schemas['EvidenceOut']): string =>
		`${row.setting}${row.app ? ` of ${nameOf(row.app)}` : ''}`;
</script>

{#each spoken as row (row.setting + row.app)}
	<p class="mt-1" class:text-sienna={row.grade === 'contradicted'}>
		{row.grade === 'measured' ? 'Supports' : 'Contradicts'} the
		<a class="anchor underline" href="/standard">rule</a> of <span class="value">{about(row)}</span>.
	</p>
{/each}
{#if measured && onattach}
	<button class="may mt-2" onclick={onattach}>Add this evidence to the rule</button>
{/if}
