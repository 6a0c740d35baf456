<script lang="ts">
	import { createQuery, keepPreviousData } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import type { Schemas } from '../../api/client';
	import { readAnew } from '../../api/anew';
	import { ask } from '../../api/queries';
	import { sizeOf, titleOf } from '../../model/rollout/planTitle';
	import { FEW, sameChanges } from '../../model/rollout/planGroups';
	import { USUAL } from '../../model/rollout/terms';
	import { Acts } from '../../state/acts.svelte';
	import { correction } from '../../state/correction.svelte';
	import { route } from '../../state/shell/route.svelte';
	import Ask from '../ui/Ask.svelte';
	import Sheet from '../ui/Sheet.svelte';
	import OrderOfSeats from './OrderOfSeats.svelte';
	import SameChanges from './SameChanges.svelte';
	import PlanFooter from './PlanFooter.svelte';
	import PlanOfSeat from './PlanOfSeat.svelte';
	import Rehearsed from './Rehearsed.svelte';

	let terms = $state.raw<Schemas['TermsIn']>({ ...USUAL, ...correction.terms });
	let name = $state(correction.title);
	let kept = $state('');
	let tried = $state(0);
	let everySeat = $state(false);
	const plan = createQuery(() => ({
		...ask.plan(correction.findings, terms),
		placeholderData: keepPreviousData
	}));
	const acts = new Acts();
	const undecided = (seat: Schemas['PlannedSeatOut']): boolean =>
		seat.in_the_way.length > 0 || seat.left.length > 0;

	const size = $derived(sizeOf(plan.data?.seats ?? []));
	const changes = $derived(size.changes);
	const byHand = $derived(size.errands);
	const title = $derived(plan.data ? titleOf(size.changes, size.seats, size.errands) : 'Plan');

	async function start(seen: string): Promise<void> {
		const wanted = { findings: correction.findings, seen, title: name.trim(), terms };
		const done = await acts.do(async () => {
			const started = await write.startRollout(wanted);
			await readAnew(['rollout']);
			correction.close();
			route.go(`/rollouts/${started.id}`);
		});
		if (!done) void plan.refetch();
	}

	const withoutTurn = $derived(new Set((plan.data?.order.without ?? []).map((one) => one.seat)));
	const late = $derived(
		(plan.data?.seats ?? []).flatMap((seat) => (withoutTurn.has(seat.seat) ? seat.findings : []))
	);

	/** Under the name that it has, in place of the plan that it was opened from where the name is the same. */
	async function keep(): Promise<void> {
		const wanted = { name: name.trim(), findings: correction.findings, terms };
		await acts.do(async () => {
			const same = correction.kept?.name === wanted.name ? correction.kept : undefined;
			const now = await (same ? write.changePlan(same, wanted) : write.keepPlan(wanted));
			correction.keep({ id: now.id, name: now.name, seen: now.seen });
			kept = wanted.name;
			await readAnew(['rollout', 'plans']);
		});
	}

	async function tryIt(): Promise<void> {
		await acts.do(async () => {
			tried = (await write.rehearse(correction.findings, terms.rounder)).id;
		});
	}

	async function giveErrands(): Promise<void> {
		await acts.do(async () => {
			await write.giveErrands(correction.findings);
			await readAnew(['errand']);
			correction.close();
			route.go('/errands');
		});
	}
</script>

<Sheet {title} onclose={() => correction.close()} wide>
	<Ask of={plan} waiting="Preparing the plan…">
		{#snippet children(made)}
			{#if changes}
				<OrderOfSeats
					order={made.order}
					{terms}
					onterms={(next) => (terms = next)}
					stale={plan.isPlaceholderData}
					moving={made.seats.some((seat) => seat.changes.some((change) => change.volume))}
					workedOut={made.seats.some((seat) => seat.changes.some((change) => change.shown_rounder))}
				/>
			{/if}
			{#if tried}<Rehearsed number={tried} />{/if}
			{#if late.length}
				<p class="mb-3">
					<button class="may" onclick={() => correction.leaveOut(late)}>Skip seats without a slot</button>
				</p>
			{/if}
			{#if made.seats.length > 1 && changes}<SameChanges changes={sameChanges(made.seats)} />{/if}
			{#if made.seats.length > FEW}
				<p class="mb-3">
					<button class="may" aria-expanded={everySeat} onclick={() => (everySeat = !everySeat)}
						>{everySeat
							? 'Show only seats that need a decision'
							: `Show all ${made.seats.length} seats`}</button
					>
				</p>
			{/if}
			{#each everySeat || made.seats.length <= FEW ? made.seats : made.seats.filter(undecided) as seat (seat.seat)}
				<PlanOfSeat
					{seat}
					closes={seat.closes}
					restarts={seat.restarts}
					inTheWay={seat.in_the_way}
					onleaveout={made.seats.length > 1 ? () => correction.leaveOut(seat.findings) : undefined}
				/>
			{/each}
			<div class="mt-2 flex flex-wrap items-end gap-3">
				<label class="grid gap-1">
					<span class="quiet">Name</span>
					<input class="field w-80" maxlength="200" bind:value={name} placeholder="what the plan does" />
				</label>
				<button class="may" disabled={!name.trim()} onclick={keep}>Save plan</button>
				{#if kept}<span class="quiet" role="status">Saved as {kept}.</span>{/if}
			</div>
			{#if acts.refused}
				<p class="mt-3 text-oxblood" role="alert">{acts.refused}</p>
			{/if}
			<PlanFooter
				{changes}
				{byHand}
				errands={terms.errands}
				busy={acts.busy}
				ready={!plan.isPlaceholderData && !made.order.without.length}
				onstart={() => start(made.digest)}
				ontry={tryIt}
				onerrands={giveErrands}
				onclose={() => correction.close()}
			/>
		{/snippet}
	</Ask>
</Sheet>
