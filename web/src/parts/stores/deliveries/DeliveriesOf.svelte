<!-- Deliveries in one state. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import type { Acts } from '../../../state/acts.svelte';
	import DeliveryLine from './DeliveryLine.svelte';

	type Props = {
		title: string;
		none: string;
		rows: Schemas['DeliveredOut'][];
		acts: Acts;
		may: boolean;
	};
	let { title, none, rows, acts, may }: Props = $props();
</script>

{#if rows.length || none}
	<section aria-label={title}>
		<h2 class="mb-1 text-lg">{title}</h2>
		{#if !rows.length}<p>{none}</p>{/if}
		<ul>
			{#each rows as row (row.id)}<DeliveryLine {row} {acts} {may} />{/each}
		</ul>
	</section>
{/if}
