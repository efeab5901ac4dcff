<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	/** A ruler to lay over a picture. Its centimeters are those of this screen: it compares lengths, as on paper. */
	let x = $state(40);
	let y = $state(180);
	let turn = $state(0);
	let drag: { dx: number; dy: number } | null = null;
	const CM = 37.8;
	const LENGTH = 15;

	function keys(event: KeyboardEvent) {
		const step: Record<string, [number, number]> = {
			ArrowLeft: [-8, 0],
			ArrowRight: [8, 0],
			ArrowUp: [0, -8],
			ArrowDown: [0, 8]
		};
		const by = step[event.key];
		if (event.key === 'r') turn = (turn + (event.shiftKey ? -5 : 5)) % 360;
		else if (by) [x, y] = [x + by[0], y + by[1]];
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
</script>

<div
	class="fixed z-20"
	style:left="{x}px"
	style:top="{y}px"
	style:transform="rotate({turn}deg)"
	style:transform-origin="0 0"
>
	<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
	<div
		role="application"
		tabindex="0"
		aria-label="Ruler; arrow keys move it, R turns it"
		class="cursor-grab touch-none rounded-sm border border-ink2 bg-relief5/80 select-none"
		onkeydown={keys}
		onpointerdown={(e) => {
			e.currentTarget.setPointerCapture(e.pointerId);
			drag = { dx: e.clientX - x, dy: e.clientY - y };
		}}
		onpointermove={(e) => drag && ([x, y] = [e.clientX - drag.dx, e.clientY - drag.dy])}
		onpointerup={() => (drag = null)}
	>
		<svg width={CM * LENGTH + 16} height="52" aria-hidden="true">
			{#each Array.from({ length: LENGTH * 10 + 1 }, (_, i) => i) as mm (mm)}
				<line
					x1={8 + (mm * CM) / 10}
					x2={8 + (mm * CM) / 10}
					y1="0"
					y2={mm % 10 === 0 ? 18 : mm % 5 === 0 ? 13 : 8}
					stroke="var(--color-ink)"
					stroke-width="1"
				/>
				{#if mm % 10 === 0}<text
						x={8 + (mm * CM) / 10}
						y="33"
						font-size="13"
						text-anchor="middle"
						fill="var(--color-ink)">{mm / 10}</text
					>{/if}
			{/each}
		</svg>
	</div>
	<Button class="absolute -top-9 left-0 min-h-[32px] bg-sheet text-[14px]" onclick={() => (turn = (turn + 15) % 360)}
		>Turn</Button
	>
</div>
