<script lang="ts">
	import { tellKeys } from '$lib/state/keys.svelte';
	import type { Snippet } from 'svelte';
	import { untrack } from 'svelte';
	import { GridState } from './grid.svelte';

	/**
	 * Many rows by many columns with the first column and the heads frozen. Only what is on the screen is drawn, and the
	 * cells are painted: thousands of elements could not be moved in the time of a frame. The cell with the focus is an
	 * element with its words. Arrow keys move, Enter opens; a row of -1 is the heads, a column of -1 the rows' heads.
	 */
	let {
		label,
		rows,
		columns,
		rowHeight = 28,
		columnWidth = 30,
		head,
		paint,
		painted,
		rowHead,
		columnHead,
		corner,
		says,
		onopen,
		maxHeight = 'calc(100vh - 250px)'
	}: {
		label: string;
		rows: number;
		columns: number;
		rowHeight?: number;
		columnWidth?: number;
		head: { width: number; height: number };
		/** Draws one cell whose corner is at 0, 0. */
		paint: (on: CanvasRenderingContext2D, row: number, column: number, width: number, height: number) => void;
		/** Whatever the cells depend on: they are painted again when it changes. */
		painted: unknown;
		rowHead: Snippet<[number]>;
		columnHead: Snippet<[number]>;
		corner?: Snippet;
		says: (row: number, column: number) => string;
		onopen: (row: number, column: number) => void;
		maxHeight?: string;
	} = $props();

	const view = new GridState();
	let frame = $state<HTMLDivElement | null>(null);
	let canvas = $state<HTMLCanvasElement | null>(null);
	let focused = $state(false);

	$effect.pre(() => {
		const given = { rows, columns, rowHeight, columnWidth, head };
		untrack(() => Object.assign(view, given));
	});
	$effect(() => {
		if (!frame) return;
		const seen = new ResizeObserver(
			() => frame && (view.size = { width: frame.clientWidth, height: frame.clientHeight })
		);
		seen.observe(frame);
		return () => seen.disconnect();
	});

	const wide = $derived(Math.max(0, Math.min(view.size.width - head.width, columns * columnWidth)));
	const tall = $derived(Math.max(0, Math.min(view.size.height - head.height, rows * rowHeight)));

	$effect(() => {
		void painted;
		const on = canvas?.getContext('2d');
		if (!on || !canvas) return;
		const scale = window.devicePixelRatio || 1;
		const [w, h] = [Math.round(wide * scale), Math.round(tall * scale)];
		if (canvas.width !== w) canvas.width = w;
		if (canvas.height !== h) canvas.height = h;
		on.setTransform(scale, 0, 0, scale, 0, 0);
		on.clearRect(0, 0, wide, tall);
		on.textAlign = 'center';
		on.textBaseline = 'middle';
		on.font = "600 12.5px 'Atkinson Hyperlegible Next Variable', sans-serif";
		const { firstRow, lastRow, firstColumn, lastColumn, top, left } = view;
		for (let r = firstRow; r < lastRow; r++) {
			const y = r * rowHeight - top;
			for (let c = firstColumn; c < lastColumn; c++) {
				const x = c * columnWidth - left;
				on.setTransform(scale, 0, 0, scale, x * scale, y * scale);
				paint(on, r, c, columnWidth, rowHeight - 1);
			}
		}
		on.setTransform(scale, 0, 0, scale, 0, 0);
		on.strokeStyle = getComputedStyle(canvas).getPropertyValue('--color-hair2');
		on.lineWidth = 1;
		on.beginPath();
		for (let r = firstRow; r < lastRow; r++) {
			const y = Math.round((r + 1) * rowHeight - top) - 0.5;
			on.moveTo(0, y);
			on.lineTo(wide, y);
		}
		on.stroke();
	});

	function scrolled() {
		if (!frame) return;
		view.top = frame.scrollTop;
		view.left = frame.scrollLeft;
	}
	function keys(event: KeyboardEvent) {
		if (event.ctrlKey || event.metaKey || event.altKey) return;
		if (event.key === 'Enter') return onopen(view.row, view.column);
		if (!view.move(event.key)) return;
		event.preventDefault();
		event.stopPropagation();
		const to = view.reveal();
		if (to && frame) frame.scrollTo(to);
	}
	/** Which cell a click meant: a head by its element, a cell by where it fell. */
	function clicked(event: MouseEvent) {
		const at = (event.target as HTMLElement).closest<HTMLElement>('[data-at]')?.dataset.at;
		if (at) {
			const [row, column] = at.split(':').map(Number);
			[view.row, view.column] = [row ?? 0, column ?? -1];
		} else if (event.target === canvas && canvas) {
			const box = canvas.getBoundingClientRect();
			const [row, column] = [
				Math.floor((event.clientY - box.top + view.top) / rowHeight),
				Math.floor((event.clientX - box.left + view.left) / columnWidth)
			];
			if (row < 0 || row >= rows || column < 0 || column >= columns) return;
			[view.row, view.column] = [row, column];
		} else return;
		onopen(view.row, view.column);
	}
	const id = $props.id();
	const active = $derived(`${id}-${view.row}-${view.column}`);
	const onCell = $derived(view.row >= 0 && view.column >= 0 && view.row < rows && view.column < columns);
	tellKeys([
		['← ↑ ↓ →', 'from cell to cell'],
		['Home End', 'first and last column'],
		['PgUp PgDn', 'a screen up or down'],
		['Enter', 'open what is chosen']
	]);
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_click_events_have_key_events -->
<div
	bind:this={frame}
	class="grid-frame relative overflow-auto overscroll-contain bg-sheet text-[12.5px]"
	style:max-height={maxHeight}
	role="grid"
	aria-label={label}
	aria-rowcount={rows + 1}
	aria-colcount={columns + 1}
	aria-activedescendant={focused ? active : undefined}
	tabindex="0"
	onscroll={scrolled}
	onkeydown={keys}
	onclick={clicked}
	onfocus={() => (focused = true)}
	onblur={() => (focused = false)}
>
	<div class="relative" style:width="{view.width}px" style:height="{view.height}px" role="presentation">
		<div
			class="sticky top-0 z-[3] bg-sheet"
			style:height="{head.height}px"
			style:width="{view.width}px"
			role="row"
			aria-rowindex={1}
		>
			<div
				class="absolute left-0 z-[1] border-r border-b border-hair bg-sheet"
				style="position: sticky; left: 0; width: {head.width}px; height: {head.height}px"
				role="columnheader"
				aria-colindex={1}
				id="{id}--1--1"
			>
				{@render corner?.()}
			</div>
			{#each view.visibleColumns as c (c)}
				<div
					class="absolute top-0 cursor-pointer border-b border-hair text-center"
					class:at={focused && view.row === -1 && view.column === c}
					style="left: {head.width + c * columnWidth}px; width: {columnWidth}px; height: {head.height}px"
					role="columnheader"
					aria-colindex={c + 2}
					id="{id}--1-{c}"
					data-at="-1:{c}"
				>
					{@render columnHead(c)}
				</div>
			{/each}
		</div>
		<canvas
			bind:this={canvas}
			class="sticky z-[1] block cursor-pointer"
			style="top: {head.height}px; left: {head.width}px; width: {wide}px; height: {tall}px; margin-left: {head.width}px"
			aria-hidden="true"
		></canvas>
		<!-- rows are kept by their place on the screen: scrolling changes what they say, not what there is -->
		{#each view.visibleRows as r, slot (slot)}
			<div
				class="pointer-events-none absolute left-0 z-[2] flex"
				style="top: {head.height + r * rowHeight}px; height: {rowHeight}px; width: {view.width}px"
				role="row"
				aria-rowindex={r + 2}
			>
				<div
					class="pointer-events-auto sticky left-0 cursor-pointer truncate border-r border-b border-hair2 bg-sheet px-2"
					class:at={focused && view.row === r && view.column === -1}
					style="width: {head.width}px; line-height: {rowHeight - 1}px"
					role="rowheader"
					aria-colindex={1}
					id="{id}-{r}--1"
					data-at="{r}:-1"
				>
					{@render rowHead(r)}
				</div>
				{#if onCell && view.row === r}<div
						class="absolute top-0 h-full"
						class:at={focused}
						style="left: {head.width + view.column * columnWidth}px; width: {columnWidth}px"
						role="gridcell"
						aria-colindex={view.column + 2}
						id={active}
						aria-label={says(r, view.column)}
					></div>{/if}
			</div>
		{/each}
	</div>
</div>

<style>
	.at {
		outline: 2px solid var(--color-petrol);
		outline-offset: -2px;
	}
	.grid-frame:focus-visible {
		outline: 2px solid var(--color-petrol);
		outline-offset: 2px;
	}
</style>
