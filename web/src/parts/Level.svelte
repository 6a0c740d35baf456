<script lang="ts">
	import { edgeOf, isCapped, markOf, MIDDLE, NOTCHES, placeOf, WIDTH } from './gauge';

	type Props = {
		status: string;
		words: string;
		distance?: number | null;
		severity?: string | null;
		size?: 'small' | 'row' | 'large';
	};
	let { status, words, distance = null, severity = '', size = 'row' }: Props = $props();

	const mark = $derived(markOf(status, distance));
	const place = $derived(placeOf(distance));
	const edge = $derived(edgeOf(distance));
	const colour = $derived(severity === 'must' ? 'must' : 'off');
</script>

<span class="level {size} {colour}" role="img" aria-label={words} title={words}>
	<svg viewBox="0 0 {WIDTH} 24" preserveAspectRatio="none" aria-hidden="true">
		<line
			x1="2"
			x2={WIDTH - 2}
			y1="14"
			y2="14"
			class="rule"
			class:broken={status === 'unread'}
			class:faint={status === 'no-norm'}
		/>
		{#if mark !== 'none'}
			{#each NOTCHES as notch (notch)}
				<line x1={notch} x2={notch} y1="9" y2="19" class="rule" />
			{/each}
		{/if}
		{#if mark === 'square'}
			<line x1={edge} x2={place} y1="14" y2="14" class="bar" />
		{/if}
		{#if mark === 'square' && isCapped(distance)}
			<line
				x1={place + Math.sign(place - MIDDLE) * 7}
				x2={place + Math.sign(place - MIDDLE) * 7}
				y1="6"
				y2="22"
				class="bar"
			/>
		{/if}
	</svg>
	<svg class="stand" style:left="{place}%" viewBox="-8 -8 16 16" aria-hidden="true">
		{#if mark === 'round'}
			<circle r="5" cy="-3" class="inside" />
		{:else if mark === 'square'}
			<rect x="-5" y="-8" width="10" height="10" class="outside" />
		{:else if mark === 'hanging'}
			<path d="M-6 1 H6 L0 8 Z" class="outside" />
		{:else if mark === 'diamond'}
			<path d="M0 -7 L6 -1 L0 5 L-6 -1 Z" class="waived" />
		{/if}
	</svg>
</span>

<style>
	.level {
		position: relative;
		display: inline-block;
		vertical-align: middle;
		width: 100%;
		--out: var(--sienna);
	}
	.must {
		--out: var(--oxblood);
	}
	.small {
		height: 14px;
		--mark: 12px;
	}
	.row {
		height: 20px;
		--mark: 15px;
	}
	.large {
		height: 28px;
		--mark: 20px;
	}
	svg {
		display: block;
		width: 100%;
		height: 100%;
	}
	.stand {
		position: absolute;
		top: 58.3%;
		width: var(--mark);
		height: var(--mark);
		transform: translate(-50%, -50%);
		transition: left 0.4s ease;
		overflow: visible;
	}
	.rule {
		stroke: var(--rule);
		stroke-width: 1;
		vector-effect: non-scaling-stroke;
	}
	.broken {
		stroke: var(--slate);
		stroke-dasharray: 3 4;
	}
	.faint {
		stroke: var(--hair);
	}
	.bar {
		stroke: var(--out);
		stroke-width: 2.5;
		vector-effect: non-scaling-stroke;
	}
	.inside {
		fill: var(--kelp);
	}
	.outside {
		fill: var(--out);
	}
	.waived {
		fill: var(--paper);
		stroke: var(--plum);
		stroke-width: 1.8;
	}
</style>
