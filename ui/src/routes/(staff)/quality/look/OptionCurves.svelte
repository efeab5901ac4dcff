<script lang="ts">
	import { curveMonotoneX, line } from 'd3-shape';
	import type { Schemas } from '$lib/api/client';
	import { hue } from '$lib/words/show';

	/** How each answer's share moves from the weakest to the strongest; fainter where few students stand behind it. */
	let {
		curves,
		options,
		width = 298
	}: { curves: Schemas['CurvesOut']; options: Schemas['OptionRowOut'][]; width?: number } = $props();
	const height = 168;
	const left = 30;
	const ground = 132;
	const FEW = 5;
	const x = $derived((v: number) => left + ((v + 2) / 4) * (width - left - 22));
	const y = (s: number) => ground - s * 120;
	const path = $derived(
		line<[number, number]>(
			(p) => x(p[0]),
			(p) => y(p[1])
		).curve(curveMonotoneX)
	);
	const place = (option: string) => options.findIndex((o) => o.kind === 'answer' && o.option === option);
	const shown = $derived(
		curves.curves
			.filter((c) => (options.find((o) => o.option === c.option)?.n ?? 0) > 0)
			.map((c) => ({
				...c,
				key: options.find((o) => o.option === c.option)?.is_key ?? false,
				color: c.option === '' ? 'var(--color-ink2)' : hue(place(c.option)),
				points: c.share.map((s, at) => [curves.x[at] ?? 0, s] as [number, number])
			}))
	);
	/** Letters at the right end, pushed apart where curves meet. */
	const labels = $derived.by(() => {
		const ends = shown
			.filter((c) => c.option)
			.map((c) => ({
				text: c.option.length > 4 ? `${c.option.slice(0, 3)}…` : c.option,
				color: c.color,
				y: y(c.share.at(-1) ?? 0) + 4
			}))
			.toSorted((a, b) => a.y - b.y);
		for (let at = 1; at < ends.length; at++) {
			const [above, here] = [ends[at - 1], ends[at]];
			if (above && here) here.y = Math.max(here.y, above.y + 12);
		}
		for (const end of ends) end.y = Math.max(end.y, 11);
		const over = (ends.at(-1)?.y ?? 0) - (ground + 4);
		return over > 0 ? ends.map((e) => ({ ...e, y: e.y - over })) : ends;
	});
	const right = $derived(x(curves.x.at(-1) ?? 2));
</script>

<svg
	{width}
	{height}
	role="img"
	aria-label="Share of each answer from the weakest to the strongest students; the table below gives it by fifths"
>
	{#each [0, 0.5, 1] as t (t)}
		<path d="M{left} {y(t)}H{width - 18}" stroke={t ? 'var(--color-hair2)' : 'var(--color-ink2)'} />
		<text x={left - 5} y={y(t) + 4} font-size="11" text-anchor="end" fill="var(--color-ink2)">{t * 100}</text>
	{/each}
	{#each curves.x as v, at (v)}
		{@const n = curves.behind[at] ?? 0}
		<rect
			x={x(v) - 4.5}
			y={ground + 3}
			width="9"
			height="4"
			fill={n < FEW ? 'var(--color-white)' : 'var(--color-relief3)'}
			stroke="var(--color-relief3)"
			stroke-width=".6"
			opacity={Math.min(1, 0.25 + n / 40)}><title>about {Math.round(n)} students behind this stretch</title></rect
		>
	{/each}
	{#each shown as c (c.option)}
		<path
			d={path(c.points)}
			fill="none"
			stroke={c.color}
			stroke-width={c.key ? 3 : 1.8}
			stroke-dasharray={c.option === '' ? '2 3' : undefined}
		/>
	{/each}
	{#each labels as l (l.text)}<text x={right + 5} y={l.y} font-size="12.500" font-weight="700" fill={l.color}
			>{l.text}</text
		>{/each}
	<text x={left} y={height - 12} font-size="11" fill="var(--color-ink2)">lowest on the rest</text>
	<text x={width - 18} y={height - 12} font-size="11" text-anchor="end" fill="var(--color-ink2)">strongest</text>
</svg>
