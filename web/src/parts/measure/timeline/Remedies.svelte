<!-- What would make a timeline play on a seat: the fewest changes, each with its price. -->
<script lang="ts">
	import type { Schemas } from '../../../api/client';
	import { lengthOf } from '../../../model/measure/timeline';
	import { storage } from '../../../model/words/sizes';

	type Props = { ways: Schemas['RemedyOut'][] };
	let { ways }: Props = $props();

	const MINUTES_FROM = 0.1;
	type Step = Schemas['RemedyStepOut'];
	function words(step: Step): string {
		if (step.kind === 'scale') return `play at ${step.name}: no new files`;
		if (step.kind === 'ahead')
			return `render ${lengthOf(step.start ?? 0)} to ${lengthOf(step.end ?? 0)} in advance: ${storage(step.size)}`;
		const minutes =
			step.minutes === null
				? ''
				: `, ${step.minutes < MINUTES_FROM ? 'seconds' : `${step.minutes.toFixed(1)} min`} to decode for it`;
		return `proxy of ${step.name}: ${storage(step.size)}${minutes}`;
	}
	const priced = (way: Schemas['RemedyOut']): string => (way.size ? storage(way.size) : 'no new files');
</script>

<ol class="ways">
	{#each ways as way (way.sentence + way.size)}
		<li data-remedy={way.sentence}>
			<p><span class="font-semibold">{way.sentence}</span> <span class="quiet">{priced(way)}</span></p>
			<ul class="quiet">
				{#each way.steps.slice(0, 12) as step (step.kind + step.name + step.start)}<li>
						{words(step)}
					</li>{/each}
				{#if way.steps.length > 12}<li>and {way.steps.length - 12} more</li>{/if}
			</ul>
		</li>
	{/each}
</ol>

<style>
	.ways {
		display: grid;
		grid-template-columns: repeat(auto-fit, minmax(17rem, 1fr));
		gap: 0.6rem 2rem;
	}
	.ways > li {
		border-top: 1px solid var(--hair);
		padding-top: 0.35rem;
	}
</style>
