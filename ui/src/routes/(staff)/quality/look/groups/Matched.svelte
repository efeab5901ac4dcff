<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { percent } from '$lib/words/show';

	/** Two groups among students of like score: what share of the points each got, with its interval. */
	let { stretches, reference, focal }: { stretches: Schemas['Stretch'][]; reference: string; focal: string } = $props();
	const width = 306;
	const height = 178;
	const ground = 142;
	const x = (at: number) => 40 + ((at + 0.5) * (width - 50)) / Math.max(1, stretches.length);
	const y = (p: number) => ground - p * 128;
	const SIDES = [
		['reference', -5, 'var(--color-petrol)'],
		['focal', 5, 'var(--color-optB)']
	] as const;
	const path = (side: 'reference' | 'focal', off: number) =>
		stretches
			.map((s, at) =>
				s[side].p === null
					? ''
					: `${at && stretches[at - 1]?.[side].p !== null ? 'L' : 'M'}${x(at) + off} ${y(s[side].p ?? 0)}`
			)
			.join('');
</script>

<svg
	{width}
	{height}
	role="img"
	aria-label="Share correct, by score: {stretches
		.map((s) => `${s.low} to ${s.high} points: ${percent(s.reference.p)} and ${percent(s.focal.p)}`)
		.join('; ')}"
>
	{#each [0, 0.5, 1] as t (t)}<path
			d="M36 {y(t)}H{width - 6}"
			stroke={t ? 'var(--color-hair2)' : 'var(--color-ink2)'}
		/><text x="30" y={y(t) + 4} font-size="11" text-anchor="end" fill="var(--color-ink2)">{t * 100}</text>{/each}
	{#each SIDES as [side, off, color] (side)}
		<path
			d={path(side, off)}
			fill="none"
			stroke={color}
			stroke-width="1.6"
			stroke-dasharray={side === 'focal' ? '5 3' : undefined}
		/>
		{#each stretches as s, at (at)}
			{#if s[side].p !== null}
				{#if s[side].ci95}<path
						d="M{x(at) + off} {y(s[side].ci95?.[0] ?? 0)}V{y(s[side].ci95?.[1] ?? 0)}"
						stroke={color}
						stroke-width="1"
					/>{/if}
				<circle
					cx={x(at) + off}
					cy={y(s[side].p ?? 0)}
					r="4"
					fill={side === 'focal' ? 'var(--color-white)' : color}
					stroke={color}
					stroke-width="1.6"><title>{s[side].n} students, {percent(s[side].p)}</title></circle
				>
			{/if}
		{/each}
	{/each}
	{#each stretches as s, at (at)}<text
			x={x(at)}
			y={ground + 15}
			font-size="11"
			text-anchor="middle"
			fill="var(--color-ink2)">{s.low === s.high ? s.low : `${s.low}–${s.high}`}</text
		>{/each}
	<text x={width - 6} y={height - 6} font-size="11" text-anchor="end" fill="var(--color-ink2)"
		>points on the whole test</text
	>
</svg>
<p class="small flex gap-4">
	<span class="flex items-center gap-1"
		><svg width="22" height="10" aria-hidden="true"
			><path d="M0 5H22" stroke="var(--color-petrol)" stroke-width="1.6" /><circle
				cx="11"
				cy="5"
				r="3.5"
				fill="var(--color-petrol)"
			/></svg
		>{reference}</span
	><span class="flex items-center gap-1"
		><svg width="22" height="10" aria-hidden="true"
			><path d="M0 5H22" stroke="var(--color-optB)" stroke-width="1.6" stroke-dasharray="5 3" /><circle
				cx="11"
				cy="5"
				r="3.5"
				fill="var(--color-white)"
				stroke="var(--color-optB)"
				stroke-width="1.6"
			/></svg
		>{focal}</span
	>
</p>
