<script lang="ts">
	import { ToggleGroup } from 'bits-ui';
	import type { Choice } from './choices';

	/** Any number of a few things, in a row, each on or off; arrow keys go along it. */
	let {
		value = $bindable(),
		choices,
		label,
		marked = [],
		disabled = false
	}: {
		value: string[];
		choices: readonly Choice<string>[];
		label: string;
		/** those that something is wrong with */
		marked?: readonly string[];
		disabled?: boolean;
	} = $props();
</script>

<ToggleGroup.Root type="multiple" bind:value {disabled} class="toggleset" aria-label={label}>
	{#each choices as choice (choice.value)}
		<ToggleGroup.Item
			value={choice.value}
			class="toggle {marked.includes(choice.value) ? 'marked' : ''}"
			aria-label="{label}, {choice.label}">{choice.label}</ToggleGroup.Item
		>
	{/each}
</ToggleGroup.Root>
