<script lang="ts">
	import type { Snippet } from 'svelte';
	import { scrollable } from '$lib/parts/scrollable';

	/**
	 * Rows under heads that stay in sight while the rows scroll. `within` bounds the height and dresses the frame;
	 * without it the table is as long as its rows. With no `rows`, `empty` is said instead of bare heads.
	 */
	let {
		within = '',
		class: extra = '',
		label,
		rows,
		empty = 'Nothing here yet.',
		children
	}: {
		within?: string;
		class?: string;
		label?: string;
		rows?: number;
		empty?: string;
		children: Snippet;
	} = $props();
</script>

{#snippet table()}<table class={extra} aria-label={label}>{@render children()}</table>{/snippet}
{#if rows === 0}<p class="p-4 text-[14px] text-ink2 {within.includes('sheet') ? 'sheet' : ''}">{empty}</p>
{:else if within}<div {@attach scrollable} class="frozen {within}">{@render table()}</div>
{:else}{@render table()}{/if}
