<!-- The gauge. A house draws thousands of these, so one is two elements: a rule, and the mark on it. -->
<script lang="ts">
	import { edgeOf, isCapped, markOf, placeOf, tickOf } from '../../model/gauge';

	type Props = {
		status: string;
		words: string;
		distance?: number | null;
		severity?: string | null;
		size?: 'small' | 'row' | 'large';
	};
	let { status, words, distance = null, severity = '', size = 'row' }: Props = $props();

	const mark = $derived(markOf(status, distance));
	const colour = $derived(severity === 'must' ? 'must' : 'off');
	const shape = $derived(mark !== 'none' ? 'notched' : status === 'unread' ? 'broken' : 'faint');
	const places = $derived.by(() => {
		if (mark !== 'square') return undefined;
		const [place, edge] = [placeOf(distance), edgeOf(distance)];
		const bar = `--from:${Math.min(place, edge)}%;--to:${100 - Math.max(place, edge)}%`;
		return `--place:${place}%;${bar};--tick:${tickOf(distance)}%`;
	});
</script>

<span
	class="level {size} {colour} {shape} {mark}"
	class:capped={mark === 'square' && isCapped(distance)}
	role="img"
	aria-label={words}
	title={words}
	style={places}
	>{#if mark !== 'none'}<i></i>{/if}</span
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
		left: var(--place, 50%);
		top: calc(58.3% + var(--mark) * var(--down));
		width: calc(var(--mark) * var(--wide));
		height: calc(var(--mark) * var(--high, var(--wide)));
		transform: translate(-50%, -50%) rotate(var(--turn, 0deg));
		background: var(--out);
		transition: left 0.4s ease;
	}
	.round > i,
	.square > i {
		--wide: 0.625;
		--down: -0.19; /* it stands on the rule */
	}
	.round > i {
		background: var(--kelp);
		border-radius: 50%;
	}
	.hanging > i {
		--wide: 0.8;
		--high: 0.5;
		--down: 0.3;
		clip-path: polygon(0 0, 100% 0, 50% 100%);
	}
	.diamond > i {
		--wide: 0.56;
		--down: -0.06;
		--turn: 45deg;
		background: var(--paper);
		border: calc(var(--mark) * 0.11) solid var(--plum);
	}
</style>
