<script lang="ts">
	import { toasts } from './toasts.svelte';

	/** Stands once in the frame of the pages. */
</script>

<div class="fixed bottom-5 left-1/2 z-50 flex -translate-x-1/2 flex-col gap-2" aria-live="polite">
	{#each toasts.shown as toast (toast.id)}
		<div class="toast">
			<span>{toast.text}</span>
			{#if toast.undo}<button onclick={() => toasts.undo(toast)}>Undo</button>{/if}
			<button aria-label="Close" onclick={() => toasts.close(toast.id)}>×</button>
		</div>
	{/each}
</div>
