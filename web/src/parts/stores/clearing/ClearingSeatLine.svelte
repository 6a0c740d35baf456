<!-- A seat in a plan: a bar of what it would give, filled by what has gone; its stores below when it is open. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { shareGone, storeWords, type ClearingSeat } from '../../../model/stores/clearing';
	import { storage } from '../../../model/words/sizes';
	import ClearingStore from './ClearingStore.svelte';

	type Props = {
		plan: number;
		seat: ClearingSeat;
		most: number;
		stores: Schemas['StoreClearingOut'][];
		open: boolean;
		onopen: () => void;
	};
	const STATES: Record<string, string> = { looking: 'no answer yet', waiting: 'waiting' };
	let { plan, seat, most, stores, open, onopen }: Props = $props();

	const isEmpty = (store: Schemas['StoreClearingOut']): boolean => !store.items && !store.trouble;
	const filled = $derived(stores.filter((store) => !isEmpty(store)));
	const empty = $derived(stores.filter(isEmpty).map(storeWords).join(', '));
	const words = $derived(
		seat.message || (seat.state === 'planned' ? '' : (STATES[seat.state] ?? seat.state))
	);
</script>

<li class="border-t border-hair py-1.5">
	<div class="line">
		<button type="button" class="text-left" aria-expanded={open} onclick={onopen}>
			<span class="font-semibold">{seat.seat}</span> <span class="quiet">{seat.room}</span>
		</button>
		<span
			class="give"
			role="img"
			aria-label="{storage(seat.cleared)} of {storage(seat.promised)}"
			style:width="{(100 * seat.promised) / most}%"><span style:width="{100 * shareGone(seat)}%"></span></span
		>
		<span class="value whitespace-nowrap text-right">{storage(seat.promised)}</span>
		<span>{words}</span>
	</div>
	{#if open}
		<ul class="mt-1 mb-2 ml-4">
			{#each filled as store (store.place)}<ClearingStore {plan} {store} />{/each}
			{#if empty}<li class="quiet border-t border-hair py-1">Nothing to delete: {empty}.</li>{/if}
		</ul>
	{/if}
</li>

<style>
	.line {
		display: grid;
		grid-template-columns: 13rem minmax(6rem, 20rem) 6rem minmax(0, 1fr);
		gap: 0.2rem 1.2rem;
		align-items: center;
	}
	.give {
		display: block;
		height: 12px;
		min-width: 1px;
		border: 1px solid var(--rule);
		background: var(--sheet);
	}
	.give > span {
		display: block;
		height: 100%;
		background: var(--kelp);
	}
	@media (max-width: 62rem) {
		.line {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
