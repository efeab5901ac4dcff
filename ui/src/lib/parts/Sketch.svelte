<script lang="ts">
	import { HEIGHT, path, PIECE, readSketch, WIDTH } from '$lib/sitting/sketch';

	/** What a student drew beside an answer, to look at. */
	let { value }: { value: string } = $props();
	const drawn = $derived(readSketch(value));
	const COLORS = ['var(--color-ink)', 'var(--color-petrol)', 'var(--color-vermilion)'];
</script>

<svg
	viewBox="0 0 {WIDTH} {HEIGHT}"
	class="block w-full max-w-[420px] border border-hair bg-white"
	role="img"
	aria-label="The student's sketch: {drawn.strokes.length} lines, {drawn.pieces.length} pieces"
>
	{#each drawn.strokes as stroke, at (at)}<path
			d={path(stroke.points)}
			fill="none"
			stroke={COLORS[Number(stroke.color)] ?? COLORS[0]}
			stroke-width="3"
			stroke-linecap="round"
			stroke-linejoin="round"
		/>{/each}
	{#each drawn.pieces as piece, at (at)}<g transform="translate({piece.x} {piece.y})"
			>{#if piece.kind === 'counter'}<circle
					cx={PIECE / 2}
					cy={PIECE / 2}
					r={PIECE / 2}
					fill="var(--color-relief2)"
				/>{:else}<rect
					width={PIECE}
					height={PIECE}
					rx="4"
					fill="var(--color-relief5)"
					stroke="var(--color-ink2)"
				/><text x={PIECE / 2} y={PIECE / 2 + 5} font-size="15" text-anchor="middle">{piece.text}</text>{/if}</g
		>{/each}
</svg>
