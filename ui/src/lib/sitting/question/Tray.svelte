<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	/** Counters and number tiles to lay out beside a question; nothing of it is an answer. */
	let { tools }: { tools: ('counters' | 'tiles')[] } = $props();
	type Piece = { id: number; kind: 'counter' | 'tile'; text: string; x: number; y: number };
	let pieces = $state<Piece[]>([]);
	let drag: { id: number; dx: number; dy: number } | null = null;
	let next = 1;
	let desk: HTMLDivElement;

	function add(kind: Piece['kind'], text = '') {
		const n = pieces.length;
		pieces.push({ id: next++, kind, text, x: 10 + (n % 9) * 46, y: 10 + (Math.floor(n / 9) % 3) * 46 });
	}

	function move(piece: Piece, x: number, y: number) {
		piece.x = Math.max(0, Math.min(desk.clientWidth - 42, x));
		piece.y = Math.max(0, Math.min(desk.clientHeight - 42, y));
	}

	function keys(event: KeyboardEvent, piece: Piece) {
		const by: Record<string, [number, number]> = {
			ArrowLeft: [-12, 0],
			ArrowRight: [12, 0],
			ArrowUp: [0, -12],
			ArrowDown: [0, 12]
		};
		const step = by[event.key];
		if (event.key === 'Delete' || event.key === 'Backspace') pieces = pieces.filter((p) => p.id !== piece.id);
		else if (step) move(piece, piece.x + step[0], piece.y + step[1]);
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<div class="mb-4 rounded-md border border-hair bg-paper p-2">
	<div class="flex flex-wrap items-center gap-1.5 text-[15px]">
		{#if tools.includes('counters')}<Button class="min-h-[44px] text-[16px]" onclick={() => add('counter')}
				><span class="inline-block size-5 rounded-full bg-relief2"></span>A counter</Button
			>{/if}
		{#if tools.includes('tiles')}{#each '0123456789' as digit (digit)}<button
					type="button"
					class="min-h-[44px] min-w-[36px] cursor-pointer rounded border border-edge-soft bg-sheet text-[18px] font-semibold"
					aria-label="Tile {digit}"
					onclick={() => add('tile', digit)}>{digit}</button
				>{/each}{/if}
		{#if pieces.length}<Button kind="quiet" class="min-h-[44px] text-[15px]" onclick={() => (pieces = [])}>Clear</Button
			>{/if}
		<span class="ml-auto text-[14px] text-ink2">For trying things out; not part of your answer.</span>
	</div>
	<div
		bind:this={desk}
		class="relative mt-2 h-[158px] overflow-hidden rounded border border-dashed border-edge-soft bg-sheet"
	>
		{#each pieces as piece (piece.id)}
			<button
				type="button"
				class="absolute flex size-[42px] cursor-grab touch-none items-center justify-center select-none {piece.kind ===
				'counter'
					? 'rounded-full bg-relief2'
					: 'rounded border-[1.5px] border-ink2 bg-relief5 text-[20px] font-semibold'}"
				style:left="{piece.x}px"
				style:top="{piece.y}px"
				aria-label="{piece.kind === 'counter'
					? 'Counter'
					: `Tile ${piece.text}`}; arrow keys move it, Delete removes it"
				onkeydown={(e) => keys(e, piece)}
				onpointerdown={(e) => {
					e.currentTarget.setPointerCapture(e.pointerId);
					drag = { id: piece.id, dx: e.clientX - piece.x, dy: e.clientY - piece.y };
				}}
				onpointermove={(e) => drag?.id === piece.id && move(piece, e.clientX - drag.dx, e.clientY - drag.dy)}
				onpointerup={() => (drag = null)}>{piece.text}</button
			>
		{/each}
	</div>
</div>
