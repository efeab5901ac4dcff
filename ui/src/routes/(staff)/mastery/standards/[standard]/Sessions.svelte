<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { percent, shortDay } from '$lib/words/show';

	/** The class's share at each session with its interval, beside the grade's. */
	let { sessions }: { sessions: Schemas['StandardSession'][] } = $props();
	let width = $state(460);
	const HIGH = 170;
	const LEFT = 40;
	const BOTTOM = 24;
	const x = (at: number) => LEFT + ((at + 0.5) * (width - LEFT - 8)) / sessions.length;
	const y = (share: number) => 8 + (1 - share) * (HIGH - BOTTOM - 8);
	const path = $derived(sessions.map((s, at) => `${at ? 'L' : 'M'}${x(at)} ${y(s.share)}`).join(''));
</script>

<div bind:clientWidth={width}>
	<svg
		{width}
		height={HIGH}
		role="img"
		aria-label="The class’s share at {sessions.length} sessions; the table below has the same"
	>
		{#each [0, 0.25, 0.5, 0.75, 1] as mark (mark)}
			<path d="M{LEFT} {y(mark)}H{width}" stroke="var(--color-hair)" />
			<text x={LEFT - 6} y={y(mark) + 4} text-anchor="end" class="mark">{percent(mark)}</text>
		{/each}
		<path d={path} fill="none" stroke="var(--color-petrol)" stroke-width="1.4" />
		{#each sessions as s, at (at)}
			<path d="M{x(at)} {y(s.ci95[0] ?? s.share)}V{y(s.ci95[1] ?? s.share)}" stroke="var(--color-ink)" />
			{#if s.grade !== null}<path
					d="M{x(at) - 13} {y(s.grade)}H{x(at) + 13}"
					stroke="var(--color-ink)"
					stroke-width="2.4"
					stroke-dasharray="4 2"
				/>{/if}
			<circle cx={x(at)} cy={y(s.share)} r="4.5" fill="var(--color-relief4)" stroke="var(--color-ink)">
				<title>{s.test}: {percent(s.share)} of {s.n}</title>
			</circle>
			<text x={x(at)} y={HIGH - 6} text-anchor="middle" class="mark">{sessions.length < 12 ? shortDay(s.day) : ''}</text
			>
		{/each}
	</svg>
	<p class="small mb-2">Circle: this class, with its 95% interval; dashes: everyone in the grade who took it.</p>
</div>

<style>
	.mark {
		font-size: 11.5px;
		fill: var(--color-ink);
	}
</style>
