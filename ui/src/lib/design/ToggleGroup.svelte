<script lang="ts" generics="T extends string">
	import { ToggleGroup } from 'bits-ui';
	import type { Choice } from './choices';

	/** One of two to five views or kinds, all in sight; a choice shows at once. */
	let {
		value = $bindable(),
		choices,
		label,
		onchange = () => {},
		disabled = false
	}: {
		value: T;
		choices: readonly Choice<T>[];
		label: string;
		onchange?: (value: T) => void;
		disabled?: boolean;
	} = $props();

	/** Pressing the one that is on leaves it on. */
	function choose(to: string) {
		if (!to || to === value) return;
		value = to as T;
		onchange(value);
	}
</script>

<ToggleGroup.Root
	type="single"
	bind:value={() => value as string, choose}
	{disabled}
	class="toggles"
	aria-label={label}
>
	{#each choices as choice (choice.value)}
		<ToggleGroup.Item value={choice.value} disabled={choice.disabled} class="toggle">{choice.label}</ToggleGroup.Item>
	{/each}
</ToggleGroup.Root>
