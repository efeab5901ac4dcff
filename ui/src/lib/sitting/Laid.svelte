<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A measuring tool that lies over the question: dragged by touch or mouse, moved by arrow keys, turned by R. */
	let {
		label,
		x,
		y,
		step,
		pivot,
		turn = $bindable(0),
		class: extra = '',
		children,
		buttons
	}: {
		label: string;
		x: number;
		y: number;
		/** Degrees by which R turns it. */
		step: number;
		/** What it turns around, from its upper left corner. */
		pivot: string;
		turn?: number;
		class?: string;
		children: Snippet;
		buttons: Snippet;
	} = $props();
	// svelte-ignore state_referenced_locally (where it begins)
	let at = $state<[number, number]>([x, y]);
	let drag: { dx: number; dy: number } | null = null;
	const MOVES: Record<string, [number, number]> = {
		ArrowLeft: [-8, 0],
		ArrowRight: [8, 0],
		ArrowUp: [0, -8],
		ArrowDown: [0, 8]
	};

	function keys(event: KeyboardEvent) {
		const by = MOVES[event.key];
		if (event.key.toLowerCase() === 'r') turn = (turn + (event.shiftKey ? -step : step) + 360) % 360;
		else if (by) at = [at[0] + by[0], at[1] + by[1]];
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<div class="fixed z-20" style:left="{at[0]}px" style:top="{at[1]}px">
	<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
	<div
		role="application"
		tabindex="0"
		aria-label={label}
		class="cursor-grab touch-none select-none {extra}"
		style:transform="rotate({turn}deg)"
		style:transform-origin={pivot}
		onkeydown={keys}
		onpointerdown={(e) => {
			e.currentTarget.setPointerCapture(e.pointerId);
			drag = { dx: e.clientX - at[0], dy: e.clientY - at[1] };
		}}
		onpointermove={(e) => drag && (at = [e.clientX - drag.dx, e.clientY - drag.dy])}
		onpointerup={() => (drag = null)}
	>
		{@render children()}
	</div>
	<div class="absolute -top-9 left-0 flex gap-1.5">{@render buttons()}</div>
</div>
