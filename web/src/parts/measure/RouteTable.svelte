<!-- Groups of similar seats by codecs: each cell is the device and its measured rate. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { rateScale } from '../../model/measure/rates';
	import RouteCell from './RouteCell.svelte';

	type Props = {
		found: Schemas['RoutesOut'];
		needed: number;
		selected: Schemas['GroupRouteOut'] | undefined;
		onopen: (seat: string, codec: string) => void;
	};
	let { found, needed, selected, onopen }: Props = $props();

	const scale = $derived(rateScale(needed));
	const firstSeat = ({ seats }: Schemas['RouteGroupOut']): string => seats[0] ?? '';
	const seatsOf = ({ seats }: Schemas['RouteGroupOut']): string =>
		seats.length > 3 ? `${seats.slice(0, 2).join(', ')} and ${seats.length - 2} more` : seats.join(', ');
</script>

<div class="overflow-x-auto">
	<table>
		<thead>
			<tr>
				<th scope="col">Class</th>
				{#each found.codecs as codec (codec)}<th scope="col" class="value">{codec}</th>{/each}
			</tr>
		</thead>
		<tbody>
			{#each found.groups as group (group.seats.join())}
				<tr>
					<th scope="row">
						{group.hardware_class || 'unknown class'}
						<span class="quiet block text-sm font-normal" title={group.seats.join(', ')}
							>{group.seats.length === 1 ? '1 seat' : `${group.seats.length} seats`}: {seatsOf(group)}</span
						>
					</th>
					{#each group.routes as route (route.codec)}
						<td>
							<RouteCell
								{route}
								{scale}
								seat={firstSeat(group)}
								open={selected === route}
								onopen={() => onopen(firstSeat(group), route.codec)}
							/>
						</td>
					{/each}
				</tr>
			{/each}
		</tbody>
	</table>
</div>

<style>
	table {
		border-collapse: collapse;
		width: 100%;
	}
	th {
		text-align: left;
		padding: 0.35rem 1rem 0.35rem 0;
		font-weight: 600;
		vertical-align: top;
	}
	th[scope='row'] {
		max-width: 15rem;
	}
	td {
		padding: 0.35rem 1rem 0.35rem 0;
		min-width: 7rem;
		vertical-align: top;
	}
	tr {
		border-top: 1px solid var(--hair);
	}
	thead tr {
		border-top: 0;
	}
</style>
