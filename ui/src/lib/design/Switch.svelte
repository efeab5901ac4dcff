<script lang="ts">
	import { Switch } from 'bits-ui';
	import type { Snippet } from 'svelte';

	/** On or off, at once and without a Save. */
	let {
		checked = $bindable(false),
		onchange = () => {},
		disabled = false,
		children
	}: { checked?: boolean; onchange?: (on: boolean) => void; disabled?: boolean; children: Snippet } = $props();
</script>

<label class="tick">
	<Switch.Root bind:checked={() => checked, (is) => ((checked = is), onchange(is))} {disabled} class="switch">
		<Switch.Thumb class="thumb" />
	</Switch.Root>
	<span>{@render children()}</span>
</label>
