<!-- The gauge. A house draws thousands of these, so one is two elements: a rule, and the mark on it. -->
<script lang="ts">
	import { gaugeOf, SHAPES } from '../../model/house/gauge';

	type Props = {
		status: string;
		words: string;
		distance?: number | null;
		severity?: string | null;
		size?: 'small' | 'row' | 'large';
	};
	let { status, words, distance = null, severity = '', size = 'row' }: Props = $props();

	const gauge = $derived(gaugeOf(status, distance));
	const style = $derived.by(() => {
		if (gauge.mark === 'none') return undefined;
		const { wide, high, down } = SHAPES[gauge.mark];
		const shape = `--wide:${wide};--high:${high};--down:${down};--place:${gauge.place}%`;
		const bar = gauge.bar ? `;--from:${gauge.bar[0]}%;--to:${100 - gauge.bar[1]}%` : '';
		return shape + bar + (gauge.tick === undefined ? '' : `;--tick:${gauge.tick}%`);
	});
</script>

<span
	class="level {size} {severity === 'must' ? 'must' : 'off'} {gauge.line} {gauge.mark}"
	class:capped={gauge.tick !== undefined}
	role="img"
	aria-label={words}
	title={words}
	{style}
	>{#if gauge.mark !== 'none'}<i></i>{/if}</span
>

<style>
	.level {
		position: relative;
		display: inline-block;
		vertical-align: middle;
		width: 100%;
		--out: var(--sienna);
		--line: var(--rule);
		--drawn: linear-gradient(var(--line), var(--line));
		background: var(--drawn) 50% 58.3% / 96% 1px no-repeat;
		forced-color-adjust: none; /* the shapes are drawn with backgrounds */
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
	.notched {
		background:
			var(--drawn) 41% 64% / 1px 42% no-repeat,
			var(--drawn) 59% 64% / 1px 42% no-repeat,
			var(--drawn) 50% 58.3% / 96% 1px no-repeat;
	}
	.broken {
		--drawn: repeating-linear-gradient(90deg, var(--slate) 0 3px, transparent 3px 7px);
	}
	.faint {
		--line: var(--hair);
	}
	.square::before {
		content: '';
		position: absolute;
		left: var(--from);
		right: var(--to);
		top: calc(58.3% - 1.25px);
		height: 2.5px;
		background: var(--out);
	}
	.capped::after {
		content: '';
		position: absolute;
		left: calc(var(--tick) - 1.25px);
		top: 25%;
		width: 2.5px;
		height: 66%;
		background: var(--out);
	}
	i {
		position: absolute;
		left: var(--place);
		top: calc(58.3% + var(--mark) * var(--down));
		width: calc(var(--mark) * var(--wide));
		height: calc(var(--mark) * var(--high));
		transform: translate(-50%, -50%) rotate(var(--turn, 0deg));
		background: var(--out);
		transition: left 0.4s ease;
	}
	.round > i {
		background: var(--kelp);
		border-radius: 50%;
	}
	.hanging > i {
		clip-path: polygon(0 0, 100% 0, 50% 100%);
	}
	.diamond > i {
		--turn: 45deg;
		background: var(--paper);
		border: calc(var(--mark) * 0.11) solid var(--plum);
	}
</style>
