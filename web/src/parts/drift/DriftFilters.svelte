<!-- How the grid is cut: what a row is, by what seats stand together, and whether all of it is shown. -->
<script lang="ts">
	import { GROUPINGS, type Grouping } from '../../model/house/grid';
	import { route } from '../../state/shell/route.svelte';

	type Props = { by: Grouping; byCause: boolean; onlyOff: boolean; setting: string };
	let { by, byCause, onlyOff, setting }: Props = $props();
</script>

<div class="mb-3 ml-auto flex flex-wrap items-center gap-x-4 gap-y-2">
	{#if setting}
		<button class="anchor underline" onclick={() => route.filter('setting', '')}>Show all settings</button>
	{/if}
	<label class="quiet flex items-center gap-2"
		>rows
		<select
			class="field w-auto py-1"
			value={byCause ? 'causes' : ''}
			onchange={(event) => route.filter('rows', event.currentTarget.value)}
			><option value="">by family</option><option value="causes">by cause</option></select
		></label
	>
	<label class="quiet flex items-center gap-2"
		>seats by
		<select
			class="field w-auto py-1"
			value={by}
			onchange={(event) => route.filter('by', event.currentTarget.value)}
			>{#each GROUPINGS as name (name)}<option value={name}>{name.replace('hardware_class', 'class')}</option
				>{/each}</select
		></label
	>
	<label class="quiet flex items-center gap-2"
		><input
			type="checkbox"
			checked={onlyOff}
			onchange={(event) => route.filter('only', event.currentTarget.checked ? 'off' : '')}
		/> off norm only</label
	>
</div>
