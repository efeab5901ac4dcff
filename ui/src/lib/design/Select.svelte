<script lang="ts" generics="T">
	import { Select } from 'bits-ui';
	import type { Choice } from './choices';

	/** Choose one of a few. Stands in a label, or names itself by `label`. */
	let {
		value = $bindable(),
		choices,
		label = '',
		placeholder = 'Choose …',
		onchange = () => {},
		disabled = false,
		small = false,
		class: extra = ''
	}: {
		value: T;
		choices: readonly Choice<T>[];
		/** Its name, where no label stands around it. */
		label?: string;
		placeholder?: string;
		/** After somebody chose; `value` is the new one already. */
		onchange?: (value: T) => void;
		disabled?: boolean;
		/** In a row of a table. */
		small?: boolean;
		class?: string;
	} = $props();

	// Bits UI tells choices apart by text: their place in the list
	const items = $derived(choices.map((c, at) => ({ value: String(at), label: c.label, disabled: c.disabled })));
	const at = $derived(choices.findIndex((c) => c.value === value));
	const shown = $derived(choices[at]?.label ?? placeholder);

	function choose(place: string) {
		const chosen = choices[Number(place)];
		if (!chosen || chosen.value === value) return;
		value = chosen.value;
		onchange(chosen.value);
	}
</script>

<Select.Root
	type="single"
	bind:value={() => (at < 0 ? '' : String(at)), choose}
	{items}
	{disabled}
	allowDeselect={false}
>
	<Select.Trigger
		class="input select {small ? 'small-input' : ''} {extra}"
		aria-label={label ? `${label}: ${shown}` : undefined}
	>
		<span class="truncate {at < 0 ? 'text-ink2' : ''}">{shown}</span>
		<svg viewBox="0 0 10 6" width="10" height="6" aria-hidden="true"><path d="m1 1 4 4 4-4" /></svg>
	</Select.Trigger>
	<Select.Portal>
		<Select.Content class="list" sideOffset={3} collisionPadding={8} aria-label={label || undefined}>
			<Select.Viewport>
				{#each choices as choice, place (place)}
					<Select.Item class="listed" value={String(place)} label={choice.label} disabled={choice.disabled}>
						<span class="flex-1">{choice.label}</span>{#if choice.more}<span class="small">{choice.more}</span>{/if}
					</Select.Item>
				{/each}
			</Select.Viewport>
		</Select.Content>
	</Select.Portal>
</Select.Root>
