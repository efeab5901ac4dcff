<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';

	/** Gain by start: every student a dot, over contours that are equally high for the same start. */
	let {
		students,
		contours,
		named,
		focus = $bindable('')
	}: {
		students: Schemas['GrowthStudent'][];
		contours: Schemas['GrowthContour'][];
		/** Whether who ended reliably behind may be told from the rest. */
		named: boolean;
		focus: string;
	} = $props();

	let width = $state(560);
	const HEIGHT = 356;
	const [LEFT, RIGHT, TOP, FOOT] = [40, 34, 10, 26];
	const xs = $derived([...students.map((s) => s.start), ...contours.flatMap((c) => c.points.map((p) => p[0] ?? 0))]);
	const ys = $derived([0, ...students.map((s) => s.gain)]);
	const x0 = $derived(Math.min(...xs) - 3);
	const x1 = $derived(Math.max(...xs) + 3);
	const y0 = $derived(Math.min(...ys) - 3);
	const y1 = $derived(Math.max(...ys) + 3);
	const x = (v: number) => LEFT + ((v - x0) / Math.max(1, x1 - x0)) * (width - LEFT - RIGHT);
	const y = (v: number) => TOP + ((y1 - v) / Math.max(1, y1 - y0)) * (HEIGHT - TOP - FOOT);
	const ticks = (low: number, high: number) => {
		const step = [5, 10, 20, 25, 50].find((s) => (high - low) / s <= 7) ?? 100;
		return Array.from({ length: 40 }, (_, at) => (Math.ceil(low / step) + at) * step).filter((v) => v <= high);
	};
	const line = (points: number[][]) => points.map(([a = 0, b = 0], at) => `${at ? 'L' : 'M'}${x(a)} ${y(b)}`).join('');
	/** Between a contour and the one above it; the outermost reach the edge. */
	const bands = $derived.by(() => {
		if (!contours.length) return [];
		const edge = (v: number) => (contours[0]?.points ?? []).map(([a = 0]) => [a, v]);
		const all = [edge(y0), ...contours.map((c) => c.points), edge(y1)];
		return all.slice(1).map((upper, at) => `${line(all[at]!)}${line([...upper].reverse()).replace('M', 'L')}Z`);
	});
	const chosen = $derived(students.find((s) => s.id === focus));
	const signed = (v: number) => (v > 0 ? `+${v}` : `${v}`.replace('-', '−'));
</script>

<div bind:clientWidth={width} class="relative">
	<svg
		{width}
		height={HEIGHT}
		role="img"
		aria-label="Gain by start, {students.length} students; the table has the same"
	>
		{#each bands as d, at (at)}<path
				{d}
				fill="var(--color-relief{Math.min(5, at + 1)})"
				opacity={at === 0 ? 0.28 : 0.34}
			/>{/each}
		{#each contours as c (c.percentile)}
			<path d={line(c.points)} fill="none" stroke="var(--color-ink2)" stroke-width={c.percentile === 50 ? 2.2 : 1} />
			{@const end = c.points.at(-1) ?? [0, 0]}
			<text x={x(end[0] ?? 0) + 5} y={y(end[1] ?? 0) + 4} class="mark">{c.percentile}</text>
		{/each}
		<path d="M{LEFT} {y(0)}H{width - RIGHT}" stroke="var(--color-ink2)" stroke-dasharray="2 3" />
		{#each ticks(y0, y1) as v (v)}<text x={LEFT - 6} y={y(v) + 4} class="mark" text-anchor="end">{signed(v)}</text
			>{/each}
		{#each ticks(x0, x1) as v (v)}<text x={x(v)} y={HEIGHT - 8} class="mark" text-anchor="middle">{v}</text>{/each}
		{#each students as s (s.id)}
			<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
			<circle
				cx={x(s.start)}
				cy={y(s.gain)}
				r={s.id === focus ? 6 : 3.6}
				fill={named && s.beyond === 'behind' ? 'var(--color-relief1)' : 'var(--color-white)'}
				stroke="var(--color-ink)"
				stroke-width={s.id === focus ? 2.4 : 1}
				onclick={() => (focus = s.id)}><title>{staff.name(s.name, s.alias)}, {s.start} → {s.end}</title></circle
			>
		{/each}
		{#if chosen}<text x={Math.min(x(chosen.start) + 10, width - 130)} y={y(chosen.gain) - 9} class="mark font-semibold"
				>{staff.name(chosen.name, chosen.alias)}</text
			>{/if}
	</svg>
</div>

<style>
	.mark {
		font-size: 12px;
		fill: var(--color-ink);
	}
	circle {
		cursor: pointer;
	}
</style>
