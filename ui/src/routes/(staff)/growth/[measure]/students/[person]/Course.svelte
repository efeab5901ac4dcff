<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { decimal } from '$lib/words/show';

	/** A student's scores in time, each with its error, beside the cut scores and goals. */
	let { page }: { page: Schemas['StudentGrowthPage'] } = $props();
	let width = $state(760);
	const HEIGHT = 280;
	const [LEFT, RIGHT, TOP, FOOT] = [48, 20, 14, 44];
	const at = (day: string) => new Date(day).getTime();
	const days = $derived([...page.scores.map((s) => at(s.at.start)), ...page.goals.map((g) => at(g.goal.by_day))]);
	const values = $derived([
		...page.scores.flatMap((s) => [s.score - (s.se ?? 0), s.score + (s.se ?? 0)]),
		...page.scores.flatMap((s) => (s.standing.cut === null ? [] : [s.standing.cut])),
		...page.goals.map((g) => g.goal.score)
	]);
	const low = $derived(Math.min(...values));
	const high = $derived(Math.max(...values));
	const room = $derived(Math.max(1, (high - low) * 0.12));
	const x = (day: string) =>
		LEFT +
		((at(day) - Math.min(...days)) / Math.max(1, Math.max(...days) - Math.min(...days))) * (width - LEFT - RIGHT - 40) +
		16;
	const y = (v: number) => TOP + ((high + room - v) / (high - low + 2 * room)) * (HEIGHT - TOP - FOOT);
	const line = $derived(page.scores.map((s, place) => `${place ? 'L' : 'M'}${x(s.at.start)} ${y(s.score)}`).join(''));
	const cuts = $derived(
		page.scores.filter((s) => s.standing.cut !== null).map((s) => ({ day: s.at.start, cut: s.standing.cut ?? 0 }))
	);
	const step = $derived([1, 2, 5, 10, 20, 25, 50].find((s) => (high - low + 2 * room) / s <= 7) ?? 100);
	const ticks = $derived(
		Array.from({ length: 12 }, (_, place) => (Math.ceil((low - room) / step) + place) * step).filter(
			(v) => v <= high + room
		)
	);
</script>

<div bind:clientWidth={width}>
	<svg {width} height={HEIGHT} role="img" aria-label="Scores in time; the table has the same">
		{#each ticks as v (v)}
			<path d="M{LEFT} {y(v)}H{width - RIGHT}" stroke="var(--color-hair)" />
			<text x={LEFT - 6} y={y(v) + 4} class="mark" text-anchor="end">{v}</text>
		{/each}
		{#if cuts.length}
			<path
				d={cuts.map((c, place) => `${place ? 'L' : 'M'}${x(c.day)} ${y(c.cut)}`).join('')}
				fill="none"
				stroke="var(--color-petrol)"
				stroke-width="1.5"
				stroke-dasharray="5 4"
			/>
			<text x={x(cuts.at(-1)!.day) - 40} y={y(cuts.at(-1)!.cut) - 8} class="mark" text-anchor="end">cut score</text>
		{/if}
		<path d={line} fill="none" stroke="var(--color-ink)" stroke-width="1.6" />
		{#each page.scores as s (s.at.id)}
			{#if s.se !== null}<path
					d="M{x(s.at.start)} {y(s.score - s.se)}V{y(s.score + s.se)}"
					stroke="var(--color-ink)"
					stroke-width="5"
					opacity="0.25"
				/>{/if}
			<circle
				cx={x(s.at.start)}
				cy={y(s.score)}
				r="5"
				fill="var(--color-white)"
				stroke="var(--color-ink)"
				stroke-width="1.6"
			/>
			<text x={x(s.at.start)} y={HEIGHT - 24} class="mark" text-anchor="middle">{s.at.name}</text>
			<text x={x(s.at.start)} y={HEIGHT - 9} class="mark faint" text-anchor="middle">grade {s.grade}</text>
			<text x={x(s.at.start) + 9} y={y(s.score) - 9} class="mark font-semibold"
				>{s.level || decimal(s.score, page.measure.decimals)}</text
			>
		{/each}
		{#each page.goals as g (g.goal.id)}
			<path
				d="M{x(g.goal.by_day) - 7} {y(g.goal.score)}h14"
				stroke={g.came === null ? 'var(--color-petrol)' : 'var(--color-ink2)'}
				stroke-width="3"
			/>
			<text x={x(g.goal.by_day) - 10} y={y(g.goal.score) - 7} class="mark" text-anchor="end"
				>goal {decimal(g.goal.score, 0)}</text
			>
		{/each}
	</svg>
</div>

<style>
	.mark {
		font-size: 12px;
		fill: var(--color-ink);
	}
	.faint {
		fill: var(--color-ink2);
	}
</style>
