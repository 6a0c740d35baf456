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
		if (!held.length) return 'No project templates.';
		const count = held.length === 1 ? '1 project template' : `${held.length} project templates`;
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
		A project carries its own engine setting, so an uncorrected template makes a corrected seat play badly.
		Templates are read with the dialect of their application and checked against the rules of every seat that
		uses them.
	</p>
	{#each held as template (template.id)}
		<ProjectTemplate {template} {acting} />
	{/each}
	{#if acting}<KeepTemplate names={held.map((template) => template.name)} />{/if}
</Ask>
