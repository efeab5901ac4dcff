<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { decimal, percent } from '$lib/words/show';
	import { staff } from '$lib/state/staff.svelte';

	/** Students stacked by how far the expected score lies from the cut score; the tint says who is on track. */
	let { students, focus = $bindable('') }: { students: Schemas['ProjectedStudent'][]; focus: string } = $props();
	let width = $state(560);
	const HEIGHT = 300;
	const [LEFT, RIGHT, TOP, FOOT] = [14, 14, 26, 28];
	const known = $derived(students.filter((s) => s.ahead !== null));
	const reach = $derived(Math.max(5, ...known.map((s) => Math.abs(s.ahead ?? 0))));
	const wide = $derived(Math.max(0.5, reach / 20));
	const x = (v: number) => LEFT + ((v + reach) / (2 * reach)) * (width - LEFT - RIGHT);
	/** Dots in columns, the likeliest lowest; smaller where a column would not fit. */
	const placed = $derived.by(() => {
		const columns = new Map<number, Schemas['ProjectedStudent'][]>();
		for (const s of known) {
			const at = Math.floor((s.ahead ?? 0) / wide);
			columns.set(at, [...(columns.get(at) ?? []), s]);
		}
		const most = Math.max(1, ...[...columns.values()].map((c) => c.length));
		const room = Math.min(17, (HEIGHT - TOP - FOOT) / most, (x(wide) - x(0)) * 1.02);
		return [...columns].flatMap(([at, some]) =>
			some.map((s, up) => ({ s, cx: x((at + 0.5) * wide), cy: HEIGHT - FOOT - (up + 0.5) * room, r: room / 2 - 0.4 }))
		);
	});
	const TINTS = {
		'on track': 'var(--color-relief5)',
		uncertain: 'var(--color-relief3)',
		'off track': 'var(--color-relief2)',
		'cannot be told': 'var(--color-white)'
	};
	const ticks = $derived.by(() => {
		const step = [2, 5, 10, 20, 25, 50].find((s) => (2 * reach) / s <= 10) ?? 100;
		return Array.from({ length: 40 }, (_, at) => (at - 20) * step).filter((v) => Math.abs(v) <= reach);
	});
	const chosen = $derived(placed.find((p) => p.s.id === focus));
</script>

<div bind:clientWidth={width}>
	<svg
		{width}
		height={HEIGHT}
		role="img"
		aria-label="Students by distance from the cut score, {known.length}; the table has the same"
	>
		<path d="M{x(0)} {TOP - 8}V{HEIGHT - FOOT}" stroke="var(--color-ink)" stroke-width="1.4" />
		<text x={x(0)} y={TOP - 12} class="mark" text-anchor="middle">cut score</text>
		<path d="M{LEFT} {HEIGHT - FOOT}H{width - RIGHT}" stroke="var(--color-ink2)" />
		{#each ticks as v (v)}<text x={x(v)} y={HEIGHT - 9} class="mark" text-anchor="middle"
				>{v > 0 ? '+' : ''}{decimal(v, 0)}</text
			>{/each}
		{#each placed as p (p.s.id)}
			<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
			<circle
				cx={p.cx}
				cy={p.cy}
				r={p.s.id === focus ? p.r + 2 : p.r}
				fill={TINTS[p.s.track]}
				stroke="var(--color-ink)"
				stroke-width={p.s.id === focus ? 2 : 0.6}
				onclick={() => (focus = p.s.id)}
				><title>{staff.name(p.s.name, p.s.alias)}, {decimal(p.s.score, 0)} now, {percent(p.s.will_score)}</title
				></circle
			>
		{/each}
		{#if chosen}<text x={Math.min(chosen.cx + 9, width - 140)} y={chosen.cy - 8} class="mark font-semibold"
				>{staff.name(chosen.s.name, chosen.s.alias)}</text
			>{/if}
	</svg>
	<p class="small flex flex-wrap gap-x-4">
		{#each ['off track', 'uncertain', 'on track'] as const as name (name)}<span class="flex items-center gap-1.5"
				><i class="inline-block size-3 rounded-full border border-ink" style="background: {TINTS[name]}"
				></i>{name}</span
			>{/each}
	</p>
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
