<script lang="ts" generics="T extends string">
	import { RadioGroup } from 'bits-ui';
	import type { Choice } from './choices';

	/** One of a few that are all to be read before one is chosen. */
	let {
		value = $bindable(),
		choices,
		label,
		onchange = () => {},
		disabled = false,
		class: extra = ''
	}: {
		value: T;
		choices: readonly Choice<T>[];
		label: string;
		onchange?: (value: T) => void;
		disabled?: boolean;
		class?: string;
	} = $props();
</script>

<RadioGroup.Root
	bind:value={() => value, (chosen) => ((value = chosen as T), onchange(value))}
	{disabled}
	class="flex flex-wrap gap-x-4 gap-y-1 {extra}"
	aria-label={label}
>
	{#each choices as choice (choice.value)}
		<label class="tick">
			<RadioGroup.Item value={choice.value} disabled={choice.disabled} class="box round">
				{#snippet children({ checked })}{#if checked}<span class="dot"></span>{/if}{/snippet}
			</RadioGroup.Item>
			<span
				>{choice.label}{#if choice.more}<span class="small block">{choice.more}</span>{/if}</span
			>
		</label>
	{/each}
</RadioGroup.Root>
