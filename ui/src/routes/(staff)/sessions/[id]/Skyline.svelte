<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';
	import { STATE_WORDS } from '$lib/words/show';

	/** The room at a glance: a column a student, as high as what is answered; light once handed in. */
	let { sittings, items }: { sittings: Schemas['SittingLine'][]; items: number } = $props();
	let width = $state(700);
	const height = 116;
	const ground = 96;
	const step = $derived(Math.min(34, (width - 20) / Math.max(1, sittings.length)));
	const LEGEND: [string, string][] = [
		['handed_in', 'var(--color-relief5)'],
		['answering', 'var(--color-relief3)'],
		['resting', 'var(--color-relief4)'],
		['not_started', 'var(--color-relief2)'],
		['absent', 'url(#away)']
	];
	const here = $derived(LEGEND.filter(([state]) => sittings.some((s) => s.state === state)));
	const fill = (state: string) => LEGEND.find(([s]) => s === state)?.[1] ?? 'var(--color-white)';
	/** By the share of their own items: companion forms may be shorter. */
	const rise = (s: Schemas['SittingLine']) => (s.items ? (s.answered / s.items) * 76 : 0);
	const alike = $derived(sittings.every((s) => s.items === items));
</script>

<section class="sheet px-3 pt-2" bind:clientWidth={width}>
	<div class="small flex flex-wrap gap-x-4">
		<span class="flex-1">Each student: items answered of {alike ? items : 'their own'}</span>
		{#each here as [state, look] (state)}
			<span class="flex items-center gap-1.5"
				><svg width="12" height="12"
					><rect width="12" height="12" fill={look} stroke="var(--color-ink2)" stroke-width=".8" /></svg
				>{STATE_WORDS[state]}</span
			>
		{/each}
	</div>
	<svg
		{width}
		{height}
		class="-ml-3 block"
		role="img"
		aria-label="Items answered by each student; the table below has the same"
	>
		<defs
			><pattern id="away" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
				><rect width="4" height="4" fill="var(--color-white)" /><rect
					width="1.600"
					height="4"
					fill="var(--color-relief1)"
				/></pattern
			></defs
		>
		<path d="M8 {ground - 76}H{width - 8}" stroke="var(--color-hair)" />
		<path d="M8 {ground}H{width - 8}" stroke="var(--color-ink2)" />
		{#each sittings as s, at (s.id)}
			{@const x = 10 + at * step}
			<g>
				<title>{staff.name(s.name, at)}: {STATE_WORDS[s.state]}, {s.answered} of {s.items}</title>
				<rect
					{x}
					y={ground - rise(s)}
					width={Math.max(3, step - 3)}
					height={rise(s)}
					fill={fill(s.state)}
					stroke="var(--color-relief1)"
					stroke-width=".8"
				/>
				{#if !['answering', 'resting', 'handed_in'].includes(s.state)}<rect
						{x}
						y={ground + 3}
						width={Math.max(3, step - 3)}
						height="9"
						fill={fill(s.state)}
						stroke="var(--color-relief1)"
						stroke-width=".8"
					/>{/if}
			</g>
		{/each}
	</svg>
</section>
