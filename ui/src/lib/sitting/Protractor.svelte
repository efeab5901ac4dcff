<script lang="ts">
	import Button from '$lib/design/Button.svelte';

	/** A half circle with degrees to lay over a picture. */
	const R = 130;
	let x = $state(60);
	let y = $state(220);
	let turn = $state(0);
	let drag: { dx: number; dy: number } | null = null;

	function keys(event: KeyboardEvent) {
		const step: Record<string, [number, number]> = {
			ArrowLeft: [-8, 0],
			ArrowRight: [8, 0],
			ArrowUp: [0, -8],
			ArrowDown: [0, 8]
		};
		const by = step[event.key];
		if (event.key.toLowerCase() === 'r') turn = (turn + (event.shiftKey ? -1 : 1) + 360) % 360;
		else if (by) [x, y] = [x + by[0], y + by[1]];
		else return;
		event.preventDefault();
		event.stopPropagation();
	}

	const at = (degree: number, r: number): [number, number] => {
		const a = (degree * Math.PI) / 180;
		return [R + 10 + r * Math.cos(a), R + 10 - r * Math.sin(a)];
	};
</script>

<div class="fixed z-20" style:left="{x}px" style:top="{y}px">
	<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
	<div
		role="application"
		tabindex="0"
		aria-label="Protractor; arrow keys move it, R turns it by one degree, Shift and R back"
		class="cursor-grab touch-none select-none"
		style:transform="rotate({turn}deg)"
		style:transform-origin="{R + 10}px {R + 10}px"
		onkeydown={keys}
		onpointerdown={(e) => {
			e.currentTarget.setPointerCapture(e.pointerId);
			drag = { dx: e.clientX - x, dy: e.clientY - y };
		}}
		onpointermove={(e) => drag && ([x, y] = [e.clientX - drag.dx, e.clientY - drag.dy])}
		onpointerup={() => (drag = null)}
	>
		<svg width={2 * R + 20} height={R + 24} aria-hidden="true">
			<path
				d="M10 {R + 10}A{R} {R} 0 0 1 {2 * R + 10} {R + 10}Z"
				fill="var(--color-relief5)"
				fill-opacity=".6"
				stroke="var(--color-ink2)"
			/>
			{#each Array.from({ length: 181 }, (_, d) => d) as d (d)}
				{@const [x1, y1] = at(d, R)}
				{@const [x2, y2] = at(d, R - (d % 10 === 0 ? 14 : d % 5 === 0 ? 9 : 5))}
				<line {x1} {y1} {x2} {y2} stroke="var(--color-ink)" stroke-width={d % 10 === 0 ? 1 : 0.6} />
				{#if d % 30 === 0}{@const [tx, ty] = at(d, R - 26)}<text
						x={tx}
						y={ty + 4}
						font-size="12"
						text-anchor="middle"
						fill="var(--color-ink)">{d}</text
					>{/if}
			{/each}
			<circle cx={R + 10} cy={R + 10} r="3" fill="var(--color-ink)" />
		</svg>
	</div>
	<div class="absolute -top-9 left-0 flex gap-1.5">
		<Button class="min-h-[32px] bg-sheet text-[14px]" onclick={() => (turn = (turn + 5) % 360)}>Turn 5°</Button>
		<Button class="min-h-[32px] bg-sheet text-[14px]" onclick={() => (turn = (turn + 359) % 360)}>Back 1°</Button>
	</div>
</div>
