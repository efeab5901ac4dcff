<script lang="ts">
	import { staff } from '$lib/state/staff.svelte';
	import Hint from './Hint.svelte';

	/** A standard's code with its text behind it. */
	let { code }: { code: string } = $props();
	const text = $derived(staff.texts[code]);
</script>

{#if text}
	<Hint says="{code}: {text.text}">
		<code>{code}</code>
		{#snippet more()}
			<code>{code}</code>
			<p>{text.text}</p>
			{#if text.plain}<p class="small mt-1">For families: {text.plain}</p>{/if}
		{/snippet}
	</Hint>
{:else if code}<code>{code}</code>{/if}
