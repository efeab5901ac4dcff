<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { Reader } from './speech.svelte';

	/** The sentence that is being read, and the way through the others. */
	let { reader }: { reader: Reader } = $props();
</script>

{#if reader.lines.length}
	<div
		class="mx-auto mb-4 max-w-[1120px] border-l-4 border-petrol bg-wash px-4 py-3"
		role="group"
		aria-label="Reading aloud"
	>
		<p class="text-[18px]" dir="auto">{reader.line}</p>
		<div class="mt-2 flex flex-wrap items-center gap-2">
			<Button class="min-h-[44px]" disabled={reader.at === 0} onclick={() => reader.read(reader.at - 1)}
				>Sentence before</Button
			>
			{#if reader.playing}<Button kind="primary" class="min-h-[44px]" onclick={() => reader.pause()}>Pause</Button>
			{:else}<Button kind="primary" class="min-h-[44px]" onclick={() => reader.read(reader.at)}>Read</Button>{/if}
			<Button
				class="min-h-[44px]"
				disabled={reader.at === reader.lines.length - 1}
				onclick={() => reader.read(reader.at + 1)}>Next sentence</Button
			>
			<Button kind="quiet" class="min-h-[44px]" onclick={() => reader.close()}>Stop reading</Button>
			<span class="text-[14px] text-ink2">{reader.at + 1} of {reader.lines.length}</span>
		</div>
	</div>
{/if}
