<script lang="ts">
	import type { Snippet } from 'svelte';

	/**
	 * How a page opens: its subject as the heading, and as a sentence what there is to know about it now.
	 * The browser's tab carries the subject, or the title where one thing of many is shown, and the station around it. `beside` stands behind the subject: its day,
	 * its window.
	 */
	let {
		of,
		title = of,
		station,
		beside = '',
		class: extra = '',
		live = false,
		children
	}: {
		of: string;
		title?: string;
		station?: string;
		beside?: string;
		class?: string;
		live?: boolean;
		children: Snippet;
	} = $props();
</script>

<svelte:head><title>{station ? `${title} · ${station}` : title} · Bildung</title></svelte:head>
<hgroup class={extra}>
	<h1 class="subject">
		{of}{#if beside}<span class="ml-3 font-normal">{beside}</span>{/if}
	</h1>
	<p class="finding" aria-live={live ? 'polite' : undefined}>{@render children()}</p>
</hgroup>
