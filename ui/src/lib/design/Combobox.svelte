<script lang="ts" generics="T">
	import { Combobox } from 'bits-ui';
	import { tick } from 'svelte';
	import type { Choice } from './choices';

	/** Type to find, then choose: for lists too long to look through, and for what only the server can find. */
	let {
		label,
		choices,
		text = $bindable(''),
		placeholder = '',
		oninput = () => {},
		onchoose,
		keep = false,
		empty = 'Nothing found.',
		disabled = false
	}: {
		label: string;
		/** What fits the text, whoever looked it up. */
		choices: readonly Choice<T>[];
		text?: string;
		placeholder?: string;
		oninput?: (text: string) => void;
		onchoose: (value: T) => void;
		/** What was chosen stays in the field; otherwise the field is ready for the next. */
		keep?: boolean;
		empty?: string;
		disabled?: boolean;
	} = $props();
	let open = $state(false);
	const shown = $derived(open && text.trim().length > 1);

	function choose(place: string) {
		const chosen = choices[Number(place)];
		if (!chosen) return;
		text = chosen.label; // as Bits UI writes it into the field
		open = false;
		onchoose(chosen.value);
		if (!keep) void tick().then(() => (text = ''));
	}
</script>

<div class="field">
	<Combobox.Root
		type="single"
		bind:open={() => shown, (is) => (open = is)}
		bind:value={() => '', choose}
		inputValue={text}
		{disabled}
		allowDeselect={false}
	>
		<label class="field"
			>{label}<Combobox.Input
				class="input"
				{placeholder}
				autocomplete="off"
				oninput={(e) => {
					text = e.currentTarget.value;
					open = true;
					oninput(text);
				}}
			/></label
		>
		<Combobox.Portal>
			<Combobox.Content class="list" sideOffset={3} collisionPadding={8} aria-label={label}>
				<Combobox.Viewport>
					{#each choices as choice, place (choice.value)}
						<Combobox.Item class="listed" value={String(place)} label={choice.label} disabled={choice.disabled}>
							<span class="flex-1">{choice.label}</span>{#if choice.more}<span class="small">{choice.more}</span>{/if}
						</Combobox.Item>
					{:else}<p class="small px-2 py-1">{empty}</p>{/each}
				</Combobox.Viewport>
			</Combobox.Content>
		</Combobox.Portal>
	</Combobox.Root>
</div>
