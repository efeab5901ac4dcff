<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import type { Schemas } from '$lib/api/client';
	import { percent, reliefColor, short } from '$lib/words/show';

	/** Each item by how many got it (across) and how well it separates (up). Those that want a look are named. */
	let {
		items,
		line,
		chosen,
		onchoose
	}: { items: Schemas['ItemFigures'][]; line: number; chosen: string | null; onchoose: (item: string) => void } =
		$props();

	let width = $state(460);
	const height = 176;
	const drawn = $derived(items.filter((i) => i.p !== null && i.r_rest !== null));
	const low = $derived(Math.min(-0.1, ...drawn.map((i) => i.r_rest ?? 0)) - 0.05);
	const high = $derived(Math.max(0.6, ...drawn.map((i) => i.r_rest ?? 0)) + 0.04);
	const x = $derived((p: number) => 44 + p * (width - 60));
	const y = $derived((r: number) => 8 + ((high - r) / (high - low)) * (height - 34));
	/** Numbers of the items that want a look, pushed apart where dots lie close. */
	const labels = $derived.by(() => {
		const placed: { item: Schemas['ItemFigures']; x: number; y: number }[] = [];
		for (const item of drawn.filter((i) => i.sound === false).toSorted((a, b) => (b.r_rest ?? 0) - (a.r_rest ?? 0))) {
			const at = { item, x: x(item.p ?? 0) + 10, y: y(item.r_rest ?? 0) + 4 };
			for (const other of placed) if (Math.abs(other.x - at.x) < 24 && at.y - other.y < 12) at.y = other.y + 12;
			placed.push(at);
		}
		return placed;
	});
	const urgent = (i: Schemas['ItemFigures']) => i.flags.some((f) => f.weight === 'problem');
</script>

<Panel label="Item map" class="min-w-0">
	<div class="small px-3 pt-2">Each item: share correct (across) and discrimination (up)</div>
	<div bind:clientWidth={width}>
		{#if drawn.length}
			<svg
				{width}
				{height}
				class="block"
				role="img"
				aria-label="Map of the items; the table below has the same figures"
			>
				<path d="M44 6V{height - 22}H{width - 10}" stroke="var(--color-ink2)" fill="none" />
				{#each [0, 0.2, 0.4, 0.6].filter((t) => t > low && t < high) as t (t)}
					<path
						d="M44 {y(t)}H{width - 10}"
						stroke={t === 0 ? 'var(--color-ink2)' : 'var(--color-hair2)'}
						stroke-dasharray={t === 0 ? '3 3' : undefined}
					/>
					<text x="38" y={y(t) + 4} font-size="11" text-anchor="end" fill="var(--color-ink2)"
						>{short(t, 1).replace(/^\.0$/, '0')}</text
					>
				{/each}
				<path d="M{x(line)} 6V{height - 22}" stroke="var(--color-ink2)" stroke-dasharray="2 3" />
				<text x={x(line) + 4} y={height - 27} font-size="11" fill="var(--color-ink2)">watch line</text>
				{#each [0, 0.25, 0.5, 0.75, 1] as t (t)}<text
						x={x(t)}
						y={height - 8}
						font-size="11"
						text-anchor={t === 1 ? 'end' : 'middle'}
						fill="var(--color-ink2)">{percent(t)}</text
					>{/each}
				{#each drawn as i (i.item)}
					<!-- the table offers the same by keyboard -->
					<!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
					<g class="cursor-pointer" onclick={() => onchoose(i.item)}>
						<title>Item {i.number}: {percent(i.p)} correct, r (rest) {short(i.r_rest)}</title>
						<circle cx={x(i.p ?? 0)} cy={y(i.r_rest ?? 0)} r="9" fill="transparent" />
						{#if i.item === chosen}<circle
								cx={x(i.p ?? 0)}
								cy={y(i.r_rest ?? 0)}
								r="7.500"
								fill="none"
								stroke="var(--color-petrol)"
								stroke-width="2"
							/>{/if}
						<circle
							cx={x(i.p ?? 0)}
							cy={y(i.r_rest ?? 0)}
							r={i.sound === false ? 5 : 4}
							fill={reliefColor(i.p)}
							stroke="var(--color-relief1)"
							stroke-width=".9"
						/>
					</g>
				{/each}
				{#each labels as l (l.item.item)}<text
						x={l.x}
						y={l.y}
						font-size="12.500"
						font-weight="650"
						fill={urgent(l.item) ? 'var(--color-vermilion)' : 'var(--color-ink)'}>{l.item.number}</text
					>{/each}
			</svg>
		{:else}
			<p class="p-4 text-[13.5px] text-ink2">Too few students to estimate discrimination; see the table below.</p>
		{/if}
	</div>
</Panel>
