<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A key that does the same as what it stands on. */
	let { children }: { children: Snippet } = $props();
</script>

<kbd>{@render children()}</kbd>

<style>
	kbd {
		padding: 0 5px;
		font-family: var(--font-mono);
		font-size: 12px;
		border: 1px solid currentColor;
		border-radius: 3px;
		opacity: 0.8;
	}
</style>
