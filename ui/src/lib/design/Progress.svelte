<script lang="ts">
	import { Progress } from 'bits-ui';

	/** How far long work is; without a total it only says what is done. */
	let { done, total, says }: { done: number; total: number; says: string } = $props();
	const share = $derived(total > 0 ? Math.min(1, done / total) : 0);
</script>

<div class="max-w-[420px]" role="status">
	<p class="small mb-1">{says}{total > 0 ? ` (${done} of ${total})` : ' …'}</p>
	{#if total > 0}<Progress.Root value={done} max={total} class="progress" aria-label={says}
			><span style:width="{share * 100}%"></span></Progress.Root
		>{/if}
</div>
