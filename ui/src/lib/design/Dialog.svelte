<script lang="ts">
	import { Dialog } from 'bits-ui';
	import type { Snippet } from 'svelte';

	/** A task of its own over the page; Escape and Cancel leave everything as it is. */
	let {
		open = $bindable(false),
		title,
		says = '',
		wide = false,
		children
	}: { open?: boolean; title: string; says?: string; wide?: boolean; children: Snippet } = $props();
</script>

<Dialog.Root bind:open>
	<Dialog.Portal>
		<Dialog.Overlay class="overlay" />
		<Dialog.Content class="dialog {wide ? 'max-w-[820px]' : 'max-w-[460px]'}">
			<Dialog.Title class="text-[17px] font-semibold">{title}</Dialog.Title>
			{#if says}<Dialog.Description class="small mt-1">{says}</Dialog.Description>{/if}
			<div class="mt-3">{@render children()}</div>
		</Dialog.Content>
	</Dialog.Portal>
</Dialog.Root>
