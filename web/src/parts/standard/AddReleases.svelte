<!-- Releases that a maker lists in a table, written into the text. -->
<script lang="ts">
	type Props = { onadd: (table: File) => Promise<unknown> };
	let { onadd }: Props = $props();

	async function bring(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
		const field = event.currentTarget;
		const table = field.files?.[0];
		if (!table) return;
		await onadd(table);
		field.value = '';
	}
</script>

<label class="quiet mt-2 flex items-center gap-2"
	>Add releases from a CSV or XLSX table
	<input class="field" type="file" accept=".csv,.xlsx" onchange={bring} /></label
>
