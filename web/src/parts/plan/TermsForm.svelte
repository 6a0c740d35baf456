<!-- How careful a rollout is: what is so or not, limits, hours and days. -->
<script lang="ts">
	import {
		CHOICES,
		HOURS,
		LIMITS,
		MEASURED,
		WHEN_MOVING,
		WHEN_WORKED_OUT,
		limitOf,
		type Terms
	} from '../../model/rollout/terms';
	import { fieldOfMoment, momentOfField } from '../../model/words/zone';

	type Props = { terms: Terms; onterms: (terms: Terms) => void; moving: boolean; workedOut: boolean };
	let { terms, onterms, moving, workedOut }: Props = $props();

	const choices = $derived([
		...CHOICES,
		...(moving ? [WHEN_MOVING] : []),
		...(workedOut || terms.rounder ? [WHEN_WORKED_OUT] : [])
	]);
</script>

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
			><span>Measure canaries by</span>
			<select
				class="field"
				value={terms.measure}
				onchange={(event) => onterms({ ...terms, measure: event.currentTarget.value as Terms['measure'] })}
			>
				{#each MEASURED as [job, label] (job)}<option value={job}>{label}</option>{/each}
			</select></label
		>
	{/if}
	{#each LIMITS as [name, label, unit, none] (name)}
		<label>
			<span>{label}</span>
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
	{#each HOURS as [name, label] (name)}
		<label
			><span>{label}</span>
			<input
				class="field number"
				type="time"
				value={terms[name]}
				onchange={(event) => onterms({ ...terms, [name]: event.currentTarget.value })}
			/></label
		>
	{/each}
	<label
		><span>Finished by</span>
		<input
			class="field"
			type="datetime-local"
			value={fieldOfMoment(terms.ends)}
			onchange={(event) => onterms({ ...terms, ends: momentOfField(event.currentTarget.value) })}
		/></label
	>
</div>

<style>
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
</style>
