<!-- Settings down, seats across: drawn on a canvas, so that a house of any size scrolls like a small one. -->
<script lang="ts">
	import { theme } from '../../state/shell/theme.svelte';
	import type { DriftCells } from '../../state/drift.svelte';
	import { cellOf, type Columns, type Line } from '../../model/house/grid';
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
	let labels: HTMLElement;
	let frame = 0;
	let ink: Ink;
	let dragged: { line: number; column: number } | null = null;

	const width = $derived(columns.seats.length * CELL.width);
	const height = $derived(HEAD + lines.length * CELL.height);
	const focused = $derived(drift.focus);
	const line = $derived(focused ? lines[focused.line] : undefined);
	const seat = $derived(focused ? drift.seats[columns.seats[focused.column] ?? -1] : undefined);
	const spoken = $derived(line && seat ? `${seat.name}, ${line.title}: ${words || plainly()}` : '');

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

	function plainly(): string {
		const place = placeOf(focused);
		return place < 0 ? '' : cellOf(drift.cells[place] ?? 0).status.replace('-', ' ');
	}

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
		const { scrollLeft: left, scrollTop: top, clientWidth, clientHeight } = scroller;
		labels.style.transform = `translateY(${-top}px)`;
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

	function placeOf(at: { line: number; column: number } | null): number {
		const [told, of] = [lines[at?.line ?? -1], columns.seats[at?.column ?? -1]];
		return told?.kind === 'row' && of !== undefined ? drift.place(told.row, of) : -1;
	}

	function at(event: PointerEvent): { line: number; column: number } {
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
		const of = columns.seats[here.column];
		if (of === undefined || event.button !== 0) return;
		if (isHead(event)) return drift.toggleAll(drift.ofSeat(of));
		dragged = here;
		drift.point(here);
	}

	function up(event: PointerEvent): void {
		if (!dragged) return;
		const [from, to] = [dragged, at(event)];
		dragged = null;
		if (from.line === to.line && from.column === to.column) {
			const place = placeOf(from);
			if (place >= 0) drift.toggle(place);
		} else drift.toggleAll(between(from, to));
	}

	/** The places of a rectangle that was drawn. */
	function* between(one: { line: number; column: number }, two: typeof one): Iterable<number> {
		const order = (a: number, b: number): [number, number] => (a < b ? [a, b] : [b, a]);
		const [top, bottom] = order(one.line, two.line);
		const [left, right] = order(one.column, two.column);
		for (let number = top; number <= bottom; number++) {
			const cut = { ...columns, seats: columns.seats.slice(left, right + 1) };
			const told = lines[number];
			if (told) yield* drift.ofLine(told, cut);
		}
	}

	function move(event: PointerEvent): void {
		if (!dragged && !isHead(event) && document.activeElement !== scroller) drift.point(at(event));
	}

	const STEPS: Record<string, [number, number]> = {
		ArrowUp: [-1, 0],
		ArrowDown: [1, 0],
		ArrowLeft: [0, -1],
		ArrowRight: [0, 1]
	};

	function press(event: KeyboardEvent): void {
		const step = STEPS[event.key];
		const here = focused ?? { line: 0, column: 0 };
		const [row, of] = [lines[here.line], columns.seats[here.column]];
		if (event.metaKey || event.ctrlKey || event.altKey) return;
		if (step) walk(here, step);
		else if (event.key === 'Home') show({ ...here, column: 0 });
		else if (event.key === 'End') show({ ...here, column: columns.seats.length - 1 });
		else if (event.key === 'n') next(here);
		else if (event.key === ' ') drift.toggle(placeOf(focused));
		else if (event.key === 'r' && row) drift.toggleAll(drift.ofLine(row, columns));
		else if (event.key === 's' && of !== undefined) drift.toggleAll(drift.ofSeat(of));
		else if (event.key === 'g') drift.toggleAll(drift.ofCause(drift.causeAt[placeOf(focused)] ?? -1));
		else if (event.key === 'Enter' && seat) onopen(seat.name);
		else return;
		event.preventDefault();
	}

	function walk(from: { line: number; column: number }, [down, right]: [number, number]): void {
		let number = from.line + down;
		while (lines[number]?.kind === 'family') number += down || 1;
		const column = Math.min(Math.max(from.column + right, 0), columns.seats.length - 1);
		show({ line: lines[number] ? number : from.line, column });
	}

	/** The next cell that is off norm, line by line. */
	function next(from: { line: number; column: number }): void {
		for (let number = from.line; number < lines.length; number++) {
			const first = number === from.line ? from.column + 1 : 0;
			for (let column = first; column < columns.seats.length; column++) {
				const place = placeOf({ line: number, column });
				const told = lines[number];
				const mine = told?.kind === 'row' && (told.cause === null || drift.causeAt[place] === told.cause);
				if (mine && cellOf(drift.cells[place] ?? 0).status === 'off-norm')
					return show({ line: number, column });
			}
		}
	}

	function show(to: { line: number; column: number }): void {
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
	<div class="side" style:--head="{HEAD}px" style:--line="{CELL.height}px">
		<div bind:this={labels}>
			{#each lines as told (told.key)}
				{#if told.kind === 'family'}
					<p class="label family">{told.title}</p>
				{:else}
					<button
						class="label"
						tabindex="-1"
						title="{told.title}: select what is off norm"
						onclick={() => drift.toggleAll(drift.ofLine(told, columns))}
						><span class="truncate">{told.title}</span><span class="count">{told.told}</span></button
					>
				{/if}
			{/each}
		</div>
	</div>
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
		onfocus={() => focused ?? show({ line: lines[0]?.kind === 'family' ? 1 : 0, column: 0 })}
	>
		<div style:width="{width}px" style:height="{height}px">
			<canvas bind:this={canvas} class="sticky top-0 left-0 block" aria-hidden="true"></canvas>
		</div>
		<div role="row" class="spoken" aria-rowindex={(focused?.line ?? 0) + 1}>
			<span
				id="drift-focus"
				role="gridcell"
				aria-colindex={(focused?.column ?? 0) + 1}
				aria-selected={drift.chosen.has(placeOf(focused))}>{spoken || 'no cell'}</span
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
	.side {
		overflow: hidden;
		position: relative;
		padding-top: var(--head);
	}
	.side::before {
		content: '';
		position: absolute;
		inset: 0 0 auto;
		height: var(--head);
		background: var(--paper);
		z-index: 1;
	}
	.label {
		display: flex;
		gap: 0.6rem;
		align-items: center;
		width: 100%;
		height: var(--line);
		line-height: calc(var(--line) - 1px);
		border-top: 1px solid var(--hair);
		text-align: left;
		font-size: 0.9rem;
		padding-right: 0.7rem;
		white-space: nowrap;
	}
	.label:hover:not(.family) {
		background: var(--wash);
	}
	.count {
		margin-left: auto;
		font-family: var(--font-mono);
		font-size: 0.85rem;
		color: var(--muted);
	}
	.family {
		border-color: transparent;
		font-family: var(--font-head);
		font-weight: 600;
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
