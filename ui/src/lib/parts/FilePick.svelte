<script lang="ts">
	import type { Snippet } from 'svelte';

	/** Choose files, or drop them anywhere on the row; what else stands in the row is between the tags. */
	let {
		accept,
		onfiles,
		children
	}: {
		accept: string;
		onfiles: (files: File[]) => unknown;
		children: Snippet;
	} = $props();
	let input: HTMLInputElement;

	function chosen() {
		const files = [...(input.files ?? [])];
		input.value = ''; // so that the same file can be chosen again
		void onfiles(files);
	}
</script>

<div
	class="flex flex-wrap items-center gap-3"
	role="group"
	ondragover={(e) => e.preventDefault()}
	ondrop={(e) => {
		e.preventDefault();
		void onfiles([...(e.dataTransfer?.files ?? [])]);
	}}
>
	<label class="btn primary focus-within:outline-2 focus-within:outline-offset-2 focus-within:outline-petrol">
		Choose files
		<input bind:this={input} class="sr-only" type="file" multiple {accept} onchange={chosen} />
	</label>
	{@render children()}
</div>
