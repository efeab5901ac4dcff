<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { decimal, percent, shortDay } from '$lib/words/show';

	/** The run, response by response: right above the line, wrong below; the present run begins at the dashed mark. */
	let { page }: { page: Schemas['CellPage'] } = $props();
	let width = $state(250);
	const HIGH = 92;
	const days = $derived.by(() => {
		const found: { day: string; pieces: Schemas['RunPiece'][] }[] = [];
		for (const piece of page.pieces) {
			const last = found.at(-1);
			if (last && last.day === piece.day) last.pieces.push(piece);
			else found.push({ day: piece.day, pieces: [piece] });
		}
		return found;
	});
	const slots = $derived(page.pieces.length + days.length);
	const step = $derived(Math.min(16, (width - 8) / Math.max(1, slots)));
	const placed = $derived.by(() => {
		let at = 0;
		return days.map((d) => {
			const from = at;
			at += d.pieces.length + 1;
			return { ...d, from };
		});
	});
	const begin = $derived(placed.find((d) => d.pieces[0]?.in_run)?.from ?? 0);
	/** Where a day falls among those with evidence. */
	const at = (date: string) => {
		const found = placed.find((d) => d.day >= date);
		return (found ? found.from : slots - 1) * step + 3;
	};
	const top = $derived(Math.max(0.001, ...page.bars));
</script>

<div bind:clientWidth={width}>
	<h3 class="mt-3 text-[13.5px] font-semibold">Response by response</h3>
	<svg
		{width}
		height={HIGH}
		role="img"
		aria-label="{page.pieces.length} responses in time; the list below has the same"
	>
		<path d="M0 46H{width}" stroke="var(--color-petrol)" />
		{#if begin > 0}<path d="M{begin * step + 2} 8V{HIGH - 14}" stroke="var(--color-ink)" stroke-dasharray="3 3" />{/if}
		{#each page.tried as t (t.id)}
			<path
				d="M{at(t.start)} 11V4H{Math.max(at(t.start) + 6, t.until ? at(t.until) : slots * step)}"
				fill="none"
				stroke="var(--color-petrol)"
				stroke-width="2"><title>{t.what}, from {shortDay(t.start)}</title></path
			>
		{/each}
		{#each placed as d (d.day)}
			{#each d.pieces as p, place (place)}
				{@const share = p.earned / p.possible}
				<rect
					x={(d.from + place) * step + 5}
					y={share >= 0.5 ? 46 - 24 * share : 46}
					width={Math.max(2, step - 3)}
					height={share >= 0.5 ? 24 * share : 24 * (1 - share)}
					fill={p.why ? 'none' : share >= 0.5 ? 'var(--color-relief5)' : 'var(--color-relief1)'}
					stroke="var(--color-ink)"
					stroke-width="0.7"
					stroke-dasharray={p.why ? '2 2' : undefined}
				>
					<title
						>{p.item ? `${p.test}, ${p.item}` : p.test}: {decimal(p.earned, 0)} of {decimal(p.possible, 0)}{p.way
							? `, ${p.way}`
							: ''}{p.why ? `; not counted: ${p.why}` : ''}</title
					>
				</rect>
			{/each}
			<text x={d.from * step + 5} y={HIGH - 3} class="mark">{placed.length < 7 ? shortDay(d.day) : ''}</text>
		{/each}
	</svg>
	<p class="small">
		Above the line right, below it wrong{begin > 0 ? '; the present run begins at the dashes' : ''}{page.tried.length
			? '; the line on top: what was tried'
			: ''}{page.pieces.some((p) => p.why) ? '; hollow: not counted' : ''}.
	</p>
	<h3 class="mt-3 text-[13.5px] font-semibold">Where the share may lie</h3>
	<svg {width} height="86" role="img" aria-label="Posterior of the share">
		{#each page.bars as bar, place (place)}
			<rect
				x={(place * width) / page.bars.length}
				y={68 - (48 * bar) / top}
				width={width / page.bars.length + 0.4}
				height={(48 * bar) / top}
				fill={(place + 0.5) / page.bars.length >= page.line ? 'var(--color-relief5)' : 'var(--color-relief3)'}
			/>
		{/each}
		<path d="M{page.line * width} 2V68" stroke="var(--color-ink)" stroke-dasharray="3 3" />
		<text x={page.line * width - 4} y="11" class="mark" text-anchor="end">line {percent(page.line)}</text>
		<path d="M0 68H{width}" stroke="var(--color-ink2)" />
		<text x="0" y="82" class="mark">0%</text>
		<text x={width} y="82" class="mark" text-anchor="end">100%</text>
	</svg>
	{#if page.low !== null && page.high !== null}<p class="small">
			90% interval {percent(page.low)} to {percent(page.high)}. At or above the line with probability {decimal(
				page.above,
				2
			)}.{page.unusual ? ` ${decimal(page.unusual, 0)} points count as usual, as little is known of their items.` : ''}
		</p>{/if}
</div>

<style>
	.mark {
		font-size: 11.5px;
		fill: var(--color-ink);
	}
</style>
