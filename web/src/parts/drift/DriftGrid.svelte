<!-- Settings down, seats across: drawn on a canvas, so that a house of any size scrolls like a small one. -->
<script lang="ts">
	import { theme } from '../../state/shell/theme.svelte';
	import type { DriftCells, Focus } from '../../state/drift.svelte';
	import { DriftWalk } from '../../state/driftWalk.svelte';
	import type { Columns, Line } from '../../model/house/grid';
	import GridLabels from './GridLabels.svelte';
	import { CELL, HEAD, inkOf, paint, type Ink } from './gridPaint';

	type Props = {
		drift: DriftCells;
		lines: Line[];
		columns: Columns;
		words: string;
		wide: boolean;
		onopen: (seat: string) => void;
	};
	let { drift, lines, columns, words, wide, onopen }: Props = $props();

	let scroller: HTMLElement;
	let canvas: HTMLCanvasElement;
	let top = $state(0);
	let frame = 0;
	let ink: Ink;
	let dragged: Focus | null = null;

	// svelte-ignore state_referenced_locally (a grid keeps its cells for as long as it is shown)
	const walk = new DriftWalk(drift, () => ({ lines, columns }));
	const focused = $derived(drift.focus);
	const spoken = $derived(
		walk.line && walk.line.kind === 'row' && walk.seat
			? `${walk.seat.name}, ${walk.line.title}: ${words || walk.status}`
			: ''
	);

	$effect(() => {
		ink = inkOf(canvas);
		void theme.name;
		const watch = new ResizeObserver(fit);
		watch.observe(scroller);
		void document.fonts.ready.then(soon);
		return () => {
			watch.disconnect();
			cancelAnimationFrame(frame);
		};
	});
	$effect(() => {
		void [drift.cells, drift.causeAt, drift.chosen.size, drift.chosen.all, focused, lines, columns];
		soon();
	});

	function fit(): void {
		const scale = devicePixelRatio;
		canvas.width = scroller.clientWidth * scale;
		canvas.height = scroller.clientHeight * scale;
		canvas.style.width = `${scroller.clientWidth}px`;
		canvas.style.height = `${scroller.clientHeight}px`;
		soon();
	}

	/** Draw with the next frame, however often it was asked for. */
	function soon(): void {
		frame ||= requestAnimationFrame(() => {
			frame = 0;
			draw();
		});
	}

	function draw(): void {
		const context = canvas.getContext('2d');
		if (!context) return;
		context.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0);
		const { scrollLeft: left, clientWidth, clientHeight } = scroller;
		top = scroller.scrollTop;
		const sheet = {
			lines,
			columns,
			seats: drift.seats,
			cells: drift.cells,
			causes: drift.causeAt,
			chosen: new Set(drift.chosen.all),
			focus: focused
		};
		paint(context, sheet, { left, top, width: clientWidth, height: clientHeight }, ink);
	}

	function at(event: PointerEvent): Focus {
		const box = scroller.getBoundingClientRect();
		return {
			line: Math.floor((event.clientY - box.top - HEAD + scroller.scrollTop) / CELL.height),
			column: Math.floor((event.clientX - box.left + scroller.scrollLeft) / CELL.width)
		};
	}

	const isHead = (event: PointerEvent): boolean =>
		event.clientY - scroller.getBoundingClientRect().top < HEAD;

	function down(event: PointerEvent): void {
		const here = at(event);
		if (columns.seats[here.column] === undefined || event.button !== 0) return;
		if (isHead(event)) return walk.toggleSeat(here.column);
		dragged = here;
		drift.point(here);
	}

	function up(event: PointerEvent): void {
		if (dragged) walk.toggleBetween(dragged, at(event));
		dragged = null;
	}

	function move(event: PointerEvent): void {
		if (!dragged && !isHead(event) && document.activeElement !== scroller) drift.point(at(event));
	}

	function press(event: KeyboardEvent): void {
		if (event.metaKey || event.ctrlKey || event.altKey) return;
		const to = walk.to(event.key);
		if (to) show(to);
		else if (event.key === 'Enter' && walk.seat) onopen(walk.seat.name);
		else if (!walk.choose(event.key)) return;
		event.preventDefault();
	}

	function show(to: Focus): void {
		drift.point(to);
		const [x, y] = [to.column * CELL.width, to.line * CELL.height];
		const { clientWidth, clientHeight, scrollLeft, scrollTop } = scroller;
		scroller.scrollTo({
			left: Math.min(x, Math.max(scrollLeft, x + CELL.width - clientWidth)),
			top: Math.min(y, Math.max(scrollTop, y + HEAD + CELL.height - clientHeight))
		});
		soon();
	}
</script>

<div class="area" class:wide class:chosen={drift.chosen.size > 0}>
	<GridLabels {lines} {top} onchoose={(line) => drift.toggleAll(drift.ofLine(line, columns))} />
	<div
		class="scroller"
		bind:this={scroller}
		role="grid"
		tabindex="0"
		aria-label="Drift: settings by seats"
		aria-rowcount={lines.length}
		aria-colcount={columns.seats.length}
		aria-activedescendant={focused ? 'drift-focus' : undefined}
		aria-multiselectable="true"
		onscroll={soon}
		onkeydown={press}
		onpointerdown={down}
		onpointerup={up}
		onpointermove={move}
		onfocus={() => focused ?? show(walk.first)}
	>
		<div
			style:width="{columns.seats.length * CELL.width}px"
			style:height="{HEAD + lines.length * CELL.height}px"
		>
			<canvas bind:this={canvas} class="sticky top-0 left-0 block" aria-hidden="true"></canvas>
		</div>
		<div role="row" class="spoken" aria-rowindex={(focused?.line ?? 0) + 1}>
			<span
				id="drift-focus"
				role="gridcell"
				aria-colindex={(focused?.column ?? 0) + 1}
				aria-selected={drift.chosen.has(walk.placeOf(focused))}>{spoken || 'no cell'}</span
			>
		</div>
	</div>
</div>

<style>
	.area {
		display: grid;
		grid-template-columns: minmax(9rem, 14rem) minmax(0, 1fr);
		height: max(20rem, calc(100vh - 14rem));
		border-block: 1px solid var(--hair);
	}
	.wide {
		grid-template-columns: minmax(9rem, 24rem) minmax(0, 1fr);
	}
	.chosen {
		height: max(20rem, calc(100vh - 18rem)); /* the bar of the selection stands below */
	}
	.scroller {
		overflow: auto;
		position: relative;
		overscroll-behavior: contain;
	}
	.spoken {
		position: absolute;
		width: 1px;
		height: 1px;
		overflow: hidden;
		clip-path: inset(50%);
		top: 0;
		left: 0;
		white-space: nowrap;
	}
	canvas {
		touch-action: pan-x pan-y;
	}
</style>
