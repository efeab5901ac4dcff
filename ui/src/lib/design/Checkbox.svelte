<script lang="ts">
	import { Checkbox } from 'bits-ui';
	import type { Snippet } from 'svelte';

	/** Yes or no, with its words beside it. */
	let {
		checked = $bindable(false),
		onchange = () => {},
		disabled = false,
		label = '',
		class: extra = '',
		children
	}: {
		checked?: boolean;
		onchange?: (checked: boolean) => void;
		disabled?: boolean;
		/** Its name where no words stand beside it, as in a table. */
		label?: string;
		class?: string;
		children?: Snippet;
	} = $props();
</script>

<label class="tick {extra}">
	<Checkbox.Root
		bind:checked={() => checked, (is) => ((checked = is), onchange(is))}
		{disabled}
		class="box"
		aria-label={label || undefined}
	>
		{#snippet children({ checked })}{#if checked}<svg viewBox="0 0 12 10" width="11" height="9" aria-hidden="true"
					><path d="m1 5 3.5 3.5L11 1.5" /></svg
				>{/if}{/snippet}
	</Checkbox.Root>
	{#if children}<span>{@render children()}</span>{/if}
</label>
