<!-- Files that new projects begin with: what each says, and how that stands on the seats that begin with it. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { ask } from '../../api/queries';
	import Ask from '../../parts/ui/Ask.svelte';
	import KeepTemplate from '../../parts/template/KeepTemplate.svelte';
	import ProjectTemplate from '../../parts/template/ProjectTemplate.svelte';
	import { session } from '../../state/shell/session.svelte';

	const templates = createQuery(ask.templates);
	const acting = $derived(session.may('publish'));
	const held = $derived(templates.data?.items ?? []);
	const off = $derived(
		held.filter((one) =>
			one.lines.some((line) => line.stands.some((stand) => stand.verdict?.status === 'off-norm'))
		).length
	);
	const says = $derived.by(() => {
		if (!held.length) return 'The house holds no project templates.';
		const count = held.length === 1 ? 'One project template' : `${held.length} project templates`;
		return off
			? `${count}, ${off === held.length ? 'each' : off} off norm somewhere.`
			: `${count}, all in norm.`;
	});
</script>

<svelte:head><title>Project templates · Normant</title></svelte:head>
<Ask of={templates}>
	<div class="mb-2 flex flex-wrap items-baseline gap-x-5">
		<h1 class="text-[1.55rem]" data-sentence>{says}</h1>
		<a class="anchor" href="/standard">Standard</a>
	</div>
	<p class="quiet mb-4 max-w-[46em]">
		The engine of a project travels with it: a seat that was corrected still plays badly with a template that
		was not. What a template says is read from its file by the dialect of its application, and judged by the
		rules of each seat that begins with it.
	</p>
	{#each held as template (template.id)}
		<ProjectTemplate {template} {acting} />
	{/each}
	{#if acting}<KeepTemplate names={held.map((template) => template.name)} />{/if}
</Ask>
