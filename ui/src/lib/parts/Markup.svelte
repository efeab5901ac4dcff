<script lang="ts">
	/** Item text. The server has made it safe, on the way in and again on the way out. */
	let { html, inline = false }: { html: string; inline?: boolean } = $props();
</script>

{#if inline}
	<!-- eslint-disable-next-line svelte/no-at-html-tags -->
	<span class="markup" dir="auto">{@html html}</span>
{:else}
	<!-- eslint-disable-next-line svelte/no-at-html-tags -->
	<div class="markup" dir="auto">{@html html}</div>
{/if}
