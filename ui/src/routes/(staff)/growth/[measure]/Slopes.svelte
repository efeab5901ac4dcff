<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { decimal, percent } from '$lib/words/show';

	/** Classes as slopes from start to end, beside what their starts let expect. */
	let { block, onopen }: { block: Schemas['GradeBlock']; onopen: (klass: string) => void } = $props();
	const [WIDE, HIGH] = [80, 44];
	const all = $derived(
		block.classes.flatMap((c) => [c.mean_start, c.mean_end, c.mean_expected].filter((v) => v !== null))
	);
	const low = $derived(Math.min(...all));
	const high = $derived(Math.max(...all));
	const y = (v: number) => HIGH - 8 - ((v - low) / Math.max(1, high - low)) * (HIGH - 16);
	const signed = (v: number) => (v > 0 ? '+' : '') + decimal(v, 1);
	const tint = (off: number) =>
		off > 0 ? 'var(--color-relief5)' : off < 0 ? 'var(--color-relief2)' : 'var(--color-relief3)';
</script>

<div class="border-b border-hair py-2 last:border-0">
	<p class="text-[14px]">
		<b>Grade {block.grade}</b>
		<span class="small"
			>{block.line.met === null ? block.line.why : `${percent(block.line.met)} met the expected score`}, n = {block.line
				.n}</span
		>
	</p>
	<div class="grid grid-cols-[repeat(auto-fill,minmax(84px,1fr))] gap-x-1 gap-y-1">
		{#each block.classes as c (c.id)}
			<figure class="m-0">
				<svg width={WIDE} height={HIGH} role="img" aria-label="{c.name}: {c.why || `${c.judged} students judged`}">
					{#if c.mean_start !== null && c.mean_end !== null}
						{#if c.mean_expected !== null}<path
								d="M6 {y(c.mean_start)}L{WIDE - 14} {y(c.mean_expected)}"
								stroke="var(--color-ink2)"
								stroke-dasharray="3 3"
							/>{/if}
						<path d="M6 {y(c.mean_start)}L{WIDE - 14} {y(c.mean_end)}" stroke="var(--color-ink)" stroke-width="2" />
						<circle
							cx={WIDE - 14}
							cy={y(c.mean_end)}
							r="5"
							fill={c.says || c.told === null ? 'var(--color-white)' : tint(c.off)}
							stroke="var(--color-ink)"
						/>
					{/if}
				</svg>
				<figcaption class="text-[13px] leading-tight {c.off ? 'font-semibold' : ''}">
					<button class="word block max-w-full truncate" title={c.name} onclick={() => onopen(c.id)}
						>{c.name.replace(/^\D+/, '') || c.name}</button
					>
					{#if c.hidden}not shown{:else if c.says}cannot be told{:else if c.points !== null && c.reach !== null}{signed(
							c.points
						)} <span class="small">±{decimal(c.reach, 1)}</span>{:else}not judged{/if}
				</figcaption>
			</figure>
		{/each}
	</div>
</div>
