<script lang="ts">
	import Button from '$lib/design/Button.svelte';

	/** A table with headings, pasted instead of a file. */
	let {
		sample,
		busy,
		text = $bindable(''),
		onfiles
	}: { sample: string; busy: boolean; text?: string; onfiles: (files: File[]) => unknown } = $props();
</script>

<label class="field block"
	>Or paste a table with headings
	<textarea class="input font-mono text-[12.5px]" rows="4" placeholder={sample} bind:value={text}></textarea>
</label>
<Button class="mt-2" disabled={!text.trim() || busy} onclick={() => onfiles([new File([text], 'pasted table')])}
	>Preview</Button
>
