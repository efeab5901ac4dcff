<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import type { Schemas } from '$lib/api/client';
	import { whole } from '$lib/words/show';
	import PreviewLines from './PreviewLines.svelte';

	/** What a file would change, and the one decision: all of it or none. */
	let {
		preview,
		busy,
		onapply,
		oncancel,
		onclose
	}: {
		preview: Schemas['Preview'];
		busy: boolean;
		/** sure: the answer to what the preview asks. */
		onapply: (sure: boolean) => unknown;
		oncancel: () => void;
		onclose: () => void;
	} = $props();
	let sure = $derived(!preview.id); // a new preview asks anew
	const moves = $derived((preview.counts.added ?? 0) + (preview.counts.changed ?? 0));
	const nothing = $derived(
		preview.counts.left_out
			? 'Nothing to do: all of it is here already, or cannot be taken.'
			: 'Nothing to do: all of it is here already.'
	);
</script>

<div class="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-hair pt-3">
	<h2 class="mr-2">
		{preview.applied ? 'Done.' : moves ? 'Preview: nothing has been changed yet.' : nothing}
	</h2>
	<span class="flex-1"></span>
	{#if preview.applied}<Button onclick={onclose}>Close</Button>
	{:else}
		{#if preview.ask}
			<Checkbox bind:checked={sure} class="basis-full border-l-4 border-vermilion py-1 pl-3"
				>{preview.ask} Yes, apply.</Checkbox
			>
		{/if}
		<Button onclick={oncancel}>Cancel</Button>
		{#if moves}<Button kind="primary" disabled={busy || (!!preview.ask && !sure)} onclick={() => onapply(sure)}
				>Apply all {whole(moves)}</Button
			>{/if}
	{/if}
</div>
<PreviewLines counts={preview.counts} lines={preview.lines} applied={preview.applied} />
