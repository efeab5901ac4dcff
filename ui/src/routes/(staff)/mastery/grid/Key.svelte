<script lang="ts">
	import { TINTS } from '../states';

	/** What tints and signs mean. */
	let { states, arrows }: { states: string[]; arrows: string } = $props();
</script>

<div class="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[13px]">
	{#each [2, 3, 4, 5] as at (at)}<span class="flex items-center gap-1.5"
			><i class="inline-block h-3 w-4 rounded-[2px]" style="background: {TINTS[at]}"></i>{states[at]}</span
		>{/each}
	<span class="flex items-center gap-1.5"
		><svg width="16" height="12" aria-hidden="true"><path d="M1 10L15 2" stroke="currentColor" stroke-width="2" /></svg
		>rising</span
	>
	<span class="flex items-center gap-1.5"
		><svg width="16" height="12" aria-hidden="true"><path d="M1 2L15 10" stroke="currentColor" stroke-width="2" /></svg
		>falling</span
	>
	<span class="flex items-center gap-1.5"
		><svg width="12" height="12" aria-hidden="true"
			><circle cx="6" cy="6" r="4" fill="none" stroke="currentColor" stroke-width="1.4" /></svg
		>check again</span
	>
	<span class="flex items-center gap-1.5"
		><svg width="10" height="12" aria-hidden="true"><path d="M0 1H8V9Z" fill="currentColor" /></svg>changed lately</span
	>
	<span class="small">{arrows}</span>
</div>
