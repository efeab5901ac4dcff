<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	/** One clear message about what went wrong; read out as it appears. */
	let { text, onclose }: { text: string; onclose?: () => void } = $props();
</script>

{#if text}
	<div class="sheet my-3 flex items-start gap-3 border-l-4 border-l-vermilion px-4 py-2.5 text-[14px]" role="alert">
		<span class="flex-1">{text}</span>
		{#if onclose}<Button kind="quiet" class="-my-1" onclick={onclose}>Close</Button>{/if}
	</div>
{/if}
