<!-- In which order the seats of a plan have their turn, on which terms; it is worked out again with each change. -->
<script lang="ts">
	import type { Schemas } from '../../api/client';
	import { moment } from '../../model/words/moment';
	import {
		CHOICES,
		HOURS,
		LIMITS,
		MEASURED,
		WHEN_MOVING,
		WHEN_WORKED_OUT,
		limitOf,
		localOf,
		momentOf,
		nameOfWave,
		type Terms
	} from '../../model/rollout/terms';

	type Props = {
		order: Schemas['OrderOfSeatsOut'];
		terms: Terms;
		onterms: (terms: Terms) => void;
		stale: boolean;
		moving?: boolean;
		workedOut?: boolean;
	};
	let { order, terms, onterms, stale, moving = false, workedOut = false }: Props = $props();

	const choices = $derived([
		...CHOICES,
		...(moving ? [WHEN_MOVING] : []),
		...(workedOut || terms.rounder ? [WHEN_WORKED_OUT] : [])
	]);
	const NAMED = 10;
	function names(wave: Schemas['WaveOut']): string {
		const told = wave.turns.slice(0, NAMED).map((turn) => turn.seat);
		const more = wave.turns.length - told.length;
		return told.join(', ') + (more ? ` and ${more} more` : '');
	}
	const begins = (wave: Schemas['WaveOut']): string => moment(wave.turns[0]?.begins ?? '');
</script>

<section class="order" aria-labelledby="order">
	<div class="flex flex-wrap items-baseline gap-x-4">
		<h3 id="order" class="text-base">In which order</h3>
		<p role="status" class:quiet={stale} data-order>{order.sentence}</p>
	</div>
	<ol class="my-2">
		{#each order.waves as wave (wave.wave)}
			<li class="wave">
				<span class="font-semibold">{nameOfWave(wave.wave)}</span>
				<span>{names(wave)}</span>
				<span class="quiet"
					>{wave.turns[0]?.why ? `${wave.turns[0].why}; about ${begins(wave)}` : `from ${begins(wave)}`}</span
				>
			</li>
		{/each}
	</ol>
	{#each order.without as one (one.seat)}
		<p class="text-sienna">{one.seat} has no turn: {one.why}.</p>
	{/each}
	<details>
		<summary>How careful</summary>
		<div class="terms">
			{#each choices as [name, label] (name)}
				<label class="tick col-span-full">
					<input
						type="checkbox"
						checked={terms[name]}
						onchange={(event) => onterms({ ...terms, [name]: event.currentTarget.checked })}
					/>
					<span>{label}</span>
				</label>
			{/each}
			{#if terms.canaries}
				<label
					><span>Canaries are measured</span>
					<select
						class="field"
						value={terms.measure}
						onchange={(event) =>
							onterms({ ...terms, measure: event.currentTarget.value as Terms['measure'] })}
					>
						{#each MEASURED as [job, told] (job)}<option value={job}>{told}</option>{/each}
					</select></label
				>
			{/if}
			{#each LIMITS as [name, told, unit, none] (name)}
				<label>
					<span>{told}</span>
					<span class="flex items-baseline gap-2">
						<input
							class="field number"
							type="number"
							min="0"
							placeholder={none}
							value={terms[name] || ''}
							onchange={(event) => onterms({ ...terms, [name]: limitOf(event.currentTarget.value) })}
						/>
						<span class="quiet">{unit}</span>
					</span>
				</label>
			{/each}
			{#each HOURS as [name, told] (name)}
				<label
					><span>{told}</span>
					<input
						class="field number"
						type="time"
						value={terms[name]}
						onchange={(event) => onterms({ ...terms, [name]: event.currentTarget.value })}
					/></label
				>
			{/each}
			<label
				><span>Not before</span>
				<input
					class="field"
					type="datetime-local"
					value={localOf(terms.begins)}
					onchange={(event) => onterms({ ...terms, begins: momentOf(event.currentTarget.value) })}
				/></label
			>
			<label
				><span>Done by</span>
				<input
					class="field"
					type="datetime-local"
					value={localOf(terms.ends)}
					onchange={(event) => onterms({ ...terms, ends: momentOf(event.currentTarget.value) })}
				/></label
			>
		</div>
	</details>
</section>

<style>
	.order {
		border-bottom: 1px solid var(--hair);
		padding-bottom: 0.8rem;
		margin-bottom: 1rem;
	}
	.wave {
		display: grid;
		grid-template-columns: 6rem minmax(0, 1fr) minmax(10rem, auto);
		gap: 0.2rem 1rem;
		border-top: 1px solid var(--hair);
		padding-block: 0.25rem;
	}
	summary {
		cursor: pointer;
		color: var(--kelp);
	}
	.terms {
		display: grid;
		grid-template-columns: repeat(auto-fill, minmax(12.5rem, 1fr));
		gap: 0.7rem 1.4rem;
		margin-top: 0.6rem;
		align-items: end;
	}
	.terms label {
		display: grid;
		gap: 0.2rem;
	}
	.terms .tick {
		display: flex;
		gap: 0.6rem;
		align-items: baseline;
	}
	.field {
		min-width: 0;
	}
	.number {
		width: 5.5rem;
	}
	.number[type='time'] {
		width: 7.5rem;
	}
	@media (max-width: 640px) {
		.wave {
			grid-template-columns: 1fr;
		}
	}
</style>
