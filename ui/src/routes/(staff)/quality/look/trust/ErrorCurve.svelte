<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { decimal } from '$lib/words/show';

	/** The standard error at each score, with where the students stand and the pass lines. */
	let {
		errors,
		sem,
		cuts,
		onopen
	}: { errors: Schemas['ErrorAt'][]; sem: number | null; cuts: Schemas['Cut'][]; onopen: () => void } = $props();
	let width = $state(420);
	const height = 150;
	const ground = 118;
	const most = $derived(Math.max(0.5, ...errors.map((e) => e.error ?? 0)));
	const crowd = $derived(Math.max(1, ...errors.map((e) => e.students)));
	const x = $derived((score: number) => 34 + (score / Math.max(1, errors.length - 1)) * (width - 46));
	const y = $derived((error: number) => ground - (error / (most * 1.15)) * 104);
	const path = $derived(
		errors
			.filter((e) => e.error !== null)
			.map((e, at) => `${at ? 'L' : 'M'}${x(e.score)} ${y(e.error ?? 0)}`)
			.join('')
	);
</script>

<div bind:clientWidth={width}>
	<svg {width} {height} role="img" aria-label="Standard error in points by score, largest {decimal(most)}">
		{#each errors as e (e.score)}<rect
				x={x(e.score) - 2.5}
				y={ground - (e.students / crowd) * 40}
				width="5"
				height={(e.students / crowd) * 40}
				fill="var(--color-relief4)"
				><title>{e.score} points: {e.students} students{e.error === null ? '' : `, error ${decimal(e.error, 2)}`}</title
				></rect
			>{/each}
		{#if sem !== null}<path d="M34 {y(sem)}H{width - 12}" stroke="var(--color-ink2)" stroke-dasharray="2 3" /><text
				x={width - 12}
				y={y(sem) - 4}
				font-size="11"
				text-anchor="end"
				fill="var(--color-ink2)">{decimal(sem)} for everybody</text
			>{/if}
		<path d={path} fill="none" stroke="var(--color-petrol)" stroke-width="2" />
		{#each cuts as c (c.name)}<path
				d="M{x(c.points)} 6V{ground}"
				stroke="var(--color-ink)"
				stroke-dasharray="4 3"
			/><text x={x(c.points) + 4} y="14" font-size="11" fill="var(--color-ink)">{c.name}</text>{/each}
		<path d="M30 {ground}H{width - 8}" stroke="var(--color-ink2)" />
		{#each [0, Math.round(errors.length / 2), errors.length - 1] as s (s)}<text
				x={x(s)}
				y={ground + 14}
				font-size="11"
				text-anchor="middle"
				fill="var(--color-ink2)">{s}</text
			>{/each}
		<text x="28" y={y(most) + 4} font-size="11" text-anchor="end" fill="var(--color-ink2)">{decimal(most)}</text>
	</svg>
</div>
<p class="small">
	Points either way by score; bars: students. <button class="word" onclick={onopen}>How this was calculated</button>
</p>
