<!-- A value to be tried: one of a closed set, or words that the server reads. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';

	type Props = {
		row?: Schemas['TriableOut'] | undefined;
		label: string;
		device?: boolean;
		value: string;
	};
	let { row, label, device = false, value = $bindable() }: Props = $props();

	const DEVICES = ['cpu', 'gpu0', 'gpu1', 'gpu2'];
	const values = $derived(device ? DEVICES : (row?.values ?? []));
</script>

{#if values.length && !row?.open}
	<select class="field w-56" aria-label={label} bind:value>
		<option value="">select a value…</option>
		{#each values as name (name)}<option value={name}>{name}</option>{/each}
	</select>
{:else}
	<div>
		<input
			class="field w-56"
			aria-label={label}
			list={values.length ? `values-${row?.setting}` : undefined}
			placeholder={row?.unit ? `such as 8 ${row.unit}` : ''}
			maxlength="120"
			bind:value
		/>
		<datalist id="values-{row?.setting}"
			>{#each values as name (name)}<option value={name}></option>{/each}</datalist
		>
		{#if row?.wanted && row.wanted !== value}
			<button type="button" class="anchor quiet block min-h-7" onclick={() => (value = row.wanted)}
				>house standard: {row.wanted}</button
			>
		{/if}
	</div>
{/if}
