<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Whose from './Whose.svelte';
	import { STATE_WORDS } from '$lib/words/show';

	/** Sittings of a session by state: one bar, light is done. */
	let {
		counts,
		width = 110,
		load
	}: { counts: Record<string, number>; width?: number; load?: () => Promise<Schemas['BehindOut']> } = $props();
	const LOOK: [string, string][] = [
		['handed_in', 'var(--color-relief5)'],
		['answering', 'var(--color-relief3)'],
		['resting', 'var(--color-relief3)'],
		['on_paper', 'var(--color-relief4)'],
		['not_started', 'var(--color-white)'],
		['absent', 'hatch'],
		['exempt', 'var(--color-white)'],
		['void', 'var(--color-white)']
	];
	const total = $derived(Object.values(counts).reduce((a, b) => a + b, 0));
	const words = $derived(
		LOOK.filter(([s]) => counts[s])
			.map(([s]) => `${counts[s]} ${STATE_WORDS[s]}`)
			.join(', ') || 'no students'
	);
</script>

<span class="inline-flex items-center gap-2" title={words}>
	<span
		class="inline-flex h-3 overflow-hidden border border-relief3"
		style:width="{width}px"
		role="img"
		aria-label={words}
	>
		{#each LOOK as [state, look] (state)}
			{#if counts[state]}
				<span
					style:width="{((counts[state] ?? 0) / total) * 100}%"
					style:background={look === 'hatch'
						? 'repeating-linear-gradient(135deg, var(--color-white) 0 2px, var(--color-relief1) 2px 3.500px)'
						: look}
				></span>
			{/if}
		{/each}
	</span>
	<span class="tabular-nums"
		>{#if load && total}<Whose title="Students" {load}>{counts.handed_in ?? 0} of {total}</Whose
			>{:else}{counts.handed_in ?? 0} of {total}{/if}</span
	>
</span>
