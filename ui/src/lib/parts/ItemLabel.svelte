<script lang="ts">
	import Hint from './Hint.svelte';

	/** An item in a table: its number or code, with the text on hover and focus. href: where it leads, if anywhere. */
	let { code, number, text, href }: { code: string; number?: number | null; text: string; href?: string } = $props();
	const words = $derived(text || 'This item has no text.');
</script>

<Hint says="{number ? `Item ${number}` : code}: {words}" {href}>
	{#if number}<b class="font-semibold">{number}</b>{:else}<code>{code}</code>{/if}
	{#snippet more()}<p class="small">{number ? `Item ${number} · ` : ''}<code>{code}</code></p>
		<p>{words}</p>{/snippet}
</Hint>
