<!-- Why a group of seats decodes a codec on this device, and the cheapest remedy where that is too slow. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { routeWords } from '../../model/measure/words';

	type Props = {
		group: Schemas['RouteGroupOut'] | undefined;
		route: Schemas['GroupRouteOut'] | undefined;
		needed: number;
	};
	let { group, route, needed }: Props = $props();
</script>

<section class="reason" aria-label="Reason for this device">
	{#if group && route}
		<div>
			<h2 class="mb-1 border-b border-hair pb-1 text-lg">
				{route.codec} on {group.seats.length === 1 ? group.seats[0] : `${group.seats.length} seats`}
			</h2>
			<p role="status">{routeWords(route)}.</p>
			<p class="quiet mt-1">
				{route.measured_on.length ? `Measured on ${route.measured_on.join(', ')}. ` : ''}Seats: {group.seats.join(
					', '
				)}.
			</p>
		</div>
		<div>
			<h2 class="mb-1 border-b border-hair pb-1 text-lg">Next step</h2>
			{#if route.plays === false}
				<p>Too slow for {needed} frames per second. Least effort: {route.remedy}.</p>
			{:else}
				<p>{route.rate === null ? 'Measure this codec to see whether it is fast enough.' : 'Fast enough.'}</p>
			{/if}
			<p class="mt-2 flex flex-wrap gap-3">
				<a class="may no-underline" href="/measure/new?kind=choice&seat={group.seats[0]}">Measure devices</a>
				<a class="may no-underline" href="/seats/{group.seats[0]}">Open {group.seats[0]}</a>
			</p>
		</div>
	{:else}
		<p class="quiet">Select a device to see why it is used and why others are not.</p>
	{/if}
</section>

<style>
	.reason {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(20rem, 1fr));
		gap: 0.5rem 3rem;
		position: sticky;
		bottom: 0;
		padding-block: 0.8rem;
		border-top: 2px solid var(--rule);
		background: var(--paper);
	}
</style>
