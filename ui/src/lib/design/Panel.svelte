<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A sheet of the page with its name, which is its heading where `headed`, and otherwise told to screen readers. */
	let {
		label,
		headed = false,
		class: extra = '',
		children
	}: { label?: string; headed?: boolean; class?: string; children: Snippet } = $props();
</script>

<section class="sheet {extra}" aria-label={label}>
	{#if headed}<h2 class="mb-1">{label}</h2>{/if}
	{@render children()}
</section>
