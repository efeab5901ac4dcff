<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { untrack } from 'svelte';
	import { HEIGHT, path, PIECE, readSketch, thinned, WIDTH, without, writeSketch, type Piece } from './sketch';

	/** A sheet to draw on, kept with the answer. Pen and eraser by touch or mouse; counters and tiles also by keyboard. */
	let { value, locked = false, onput }: { value: string; locked?: boolean; onput: (text: string) => void } = $props();
	const COLORS = [
		{ name: 'Dark', color: 'var(--color-ink)' },
		{ name: 'Green', color: 'var(--color-petrol)' },
		{ name: 'Red', color: 'var(--color-vermilion)' }
	];
	let drawn = $state(untrack(() => readSketch(value)));
	let tool = $state<'pen' | 'eraser'>('pen');
	let color = $state(0);
	let drawing: number[] | null = $state(null);
	let erasing = false;
	let moved: { at: number; dx: number; dy: number } | null = null;
	let undone = $state<string[]>([]);
	let sheet: SVGSVGElement;

	function keep() {
		onput(writeSketch(drawn));
	}

	function before() {
		undone = [...undone.slice(-30), JSON.stringify(drawn)];
	}

	function undo() {
		const last = undone.at(-1);
		if (last === undefined) return;
		undone = undone.slice(0, -1);
		drawn = JSON.parse(last);
		keep();
	}

	function where(event: PointerEvent): [number, number] {
		const box = sheet.getBoundingClientRect();
		return [((event.clientX - box.left) / box.width) * WIDTH, ((event.clientY - box.top) / box.height) * HEIGHT];
	}

	function down(event: PointerEvent) {
		if (locked || event.button > 0) return;
		sheet.setPointerCapture(event.pointerId);
		const [x, y] = where(event);
		before();
		if (tool === 'pen') drawing = [x, y];
		else {
			erasing = true;
			drawn.strokes = without(drawn.strokes, x, y);
		}
	}

	function move(event: PointerEvent) {
		const [x, y] = where(event);
		if (moved) {
			const piece = drawn.pieces[moved.at];
			if (piece) place(piece, x - moved.dx, y - moved.dy);
		} else if (drawing) drawing = [...drawing, x, y];
		else if (erasing) drawn.strokes = without(drawn.strokes, x, y);
	}

	function up() {
		if (drawing) drawn.strokes.push({ color: String(color), points: thinned(drawing) });
		if (drawing || erasing || moved) keep();
		[drawing, erasing, moved] = [null, false, null];
	}

	function place(piece: Piece, x: number, y: number) {
		piece.x = Math.round(Math.max(0, Math.min(WIDTH - PIECE, x)));
		piece.y = Math.round(Math.max(0, Math.min(HEIGHT - PIECE, y)));
	}

	function add(kind: Piece['kind'], text = '') {
		before();
		const n = drawn.pieces.length;
		drawn.pieces.push({ kind, text, x: 8 + (n % 14) * 42, y: 8 + (Math.floor(n / 14) % 8) * 42 });
		keep();
	}

	function keys(event: KeyboardEvent, at: number) {
		const by: Record<string, [number, number]> = {
			ArrowLeft: [-10, 0],
			ArrowRight: [10, 0],
			ArrowUp: [0, -10],
			ArrowDown: [0, 10]
		};
		const piece = drawn.pieces[at];
		const step = by[event.key];
		if (!piece || locked) return;
		if (event.key === 'Delete' || event.key === 'Backspace') {
			before();
			drawn.pieces.splice(at, 1);
		} else if (step) place(piece, piece.x + step[0], piece.y + step[1]);
		else return;
		event.preventDefault();
		event.stopPropagation();
		keep();
	}

	function clear() {
		before();
		[drawn.strokes, drawn.pieces] = [[], []];
		keep();
	}
</script>

<div class="mx-auto mb-4 max-w-[760px] rounded-md border border-hair bg-paper p-2" role="group" aria-label="Sketch pad">
	<div class="mb-2 flex flex-wrap items-center gap-1.5 text-[15px]">
		{#each COLORS as c, at (c.name)}<Button
				class="min-h-[44px]"
				aria-pressed={tool === 'pen' && color === at}
				onclick={() => ([tool, color] = ['pen', at])}
				><span class="inline-block size-4 rounded-full" style:background={c.color}></span>{c.name} pen</Button
			>{/each}
		<Button class="min-h-[44px]" aria-pressed={tool === 'eraser'} onclick={() => (tool = 'eraser')}>Eraser</Button>
		<Button class="min-h-[44px]" onclick={() => add('counter')}>A counter</Button>
		{#each ['1', '10', '100'] as text (text)}<Button
				class="min-h-[44px] min-w-[44px]"
				aria-label="Tile {text}"
				onclick={() => add('tile', text)}>{text}</Button
			>{/each}
		<Button kind="quiet" class="min-h-[44px]" disabled={!undone.length} onclick={undo}>Undo</Button>
		<Button kind="quiet" class="min-h-[44px]" disabled={!drawn.strokes.length && !drawn.pieces.length} onclick={clear}
			>Clear</Button
		>
	</div>
	<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
	<svg
		bind:this={sheet}
		viewBox="0 0 {WIDTH} {HEIGHT}"
		class="block w-full touch-none rounded border border-edge-soft bg-sheet {tool === 'eraser'
			? 'cursor-cell'
			: 'cursor-crosshair'}"
		role="img"
		aria-label="Your sketch: {drawn.strokes.length} lines, {drawn.pieces.length} pieces"
		onpointerdown={down}
		onpointermove={move}
		onpointerup={up}
		onpointercancel={up}
	>
		{#each drawn.strokes as stroke, at (at)}<path
				d={path(stroke.points)}
				fill="none"
				stroke={COLORS[Number(stroke.color)]?.color ?? COLORS[0]?.color}
				stroke-width="3"
				stroke-linecap="round"
				stroke-linejoin="round"
			/>{/each}
		{#if drawing}<path
				d={path(drawing)}
				fill="none"
				stroke={COLORS[color]?.color}
				stroke-width="3"
				stroke-linecap="round"
				stroke-linejoin="round"
			/>{/if}
		{#each drawn.pieces as piece, at (at)}
			<g
				role="button"
				tabindex="0"
				class="cursor-grab focus:outline-3 focus:outline-petrol"
				aria-label="{piece.kind === 'counter'
					? 'Counter'
					: `Tile ${piece.text}`}; arrow keys move it, Delete removes it"
				transform="translate({piece.x} {piece.y})"
				onkeydown={(e) => keys(e, at)}
				onpointerdown={(e) => {
					if (locked || tool === 'eraser') return;
					e.stopPropagation();
					sheet.setPointerCapture(e.pointerId);
					before();
					const [x, y] = where(e);
					moved = { at, dx: x - piece.x, dy: y - piece.y };
				}}
			>
				{#if piece.kind === 'counter'}<circle
						cx={PIECE / 2}
						cy={PIECE / 2}
						r={PIECE / 2}
						fill="var(--color-relief2)"
						stroke="var(--color-ink2)"
					/>
				{:else}<rect width={PIECE} height={PIECE} rx="4" fill="var(--color-relief5)" stroke="var(--color-ink2)" /><text
						x={PIECE / 2}
						y={PIECE / 2 + 5}
						font-size="15"
						font-weight="600"
						text-anchor="middle">{piece.text}</text
					>{/if}
			</g>
		{/each}
	</svg>
	<p class="mt-1.5 text-[14px] text-ink2">Kept with your answer; your teacher can see it.</p>
</div>
