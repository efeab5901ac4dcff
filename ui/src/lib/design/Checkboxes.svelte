<script lang="ts" generics="T">
	import type { Snippet } from 'svelte';
	import Checkbox from './Checkbox.svelte';
	import type { Choice } from './choices';

	/** Any number of a list, in the order of the list. */
	let {
		values = $bindable(),
		choices,
		onchange = () => {},
		each
	}: {
		values: T[];
		choices: readonly Choice<T>[];
		onchange?: (values: T[]) => void;
		/** How a choice is written, where its label is not enough. */
		each?: Snippet<[Choice<T>]>;
	} = $props();

	function set(value: T, on: boolean) {
		const chosen = new Set(values);
		if (on) chosen.add(value);
		else chosen.delete(value);
		values = choices.map((c) => c.value).filter((v) => chosen.has(v));
		onchange(values);
	}
</script>

{#each choices as choice (choice.value)}
	<Checkbox checked={values.includes(choice.value)} disabled={choice.disabled} onchange={(on) => set(choice.value, on)}
		>{#if each}{@render each(choice)}{:else}{choice.label}{#if choice.more}<span class="small ml-2">{choice.more}</span
				>{/if}{/if}</Checkbox
	>
{/each}
