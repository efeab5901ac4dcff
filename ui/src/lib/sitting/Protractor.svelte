<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Laid from './Laid.svelte';

	/** A half circle with degrees to lay over a picture. */
	const R = 130;
	let turn = $state(0);

	const at = (degree: number, r: number): [number, number] => {
		const a = (degree * Math.PI) / 180;
		return [R + 10 + r * Math.cos(a), R + 10 - r * Math.sin(a)];
	};
</script>

<Laid
	label="Protractor; arrow keys move it, R turns it by one degree, Shift and R back"
	x={60}
	y={220}
	step={1}
	pivot="{R + 10}px {R + 10}px"
	bind:turn
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
	{#snippet buttons()}
		<Button class="min-h-[32px] bg-sheet text-[14px]" onclick={() => (turn = (turn + 5) % 360)}>Turn 5°</Button>
		<Button class="min-h-[32px] bg-sheet text-[14px]" onclick={() => (turn = (turn + 359) % 360)}>Back 1°</Button>
	{/snippet}
</Laid>
