<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { Snippet } from 'svelte';
	import { moved, type Option } from '$lib/sitting/question/answer';
	import RichField from './RichField.svelte';

	/** A list of things to choose, order or match, to be written, moved, added and taken away. */
	let {
		options,
		what,
		least = 2,
		lead,
		tail,
		fresh,
		onchange
	}: {
		options: Option[];
		what: string;
		least?: number;
		lead?: Snippet<[Option]>;
		tail?: Snippet<[Option]>;
		fresh: () => string;
		onchange: (options: Option[]) => void;
	} = $props();
</script>

{#each options as option, at (option.id)}
	<div class="mb-1.5 flex items-start gap-2">
		{@render lead?.(option)}
		<div class="min-w-0 flex-1">
			<RichField
				html={option.html}
				label="{what} {option.id}"
				small
				onchange={(html) => onchange(options.map((o) => (o.id === option.id ? { ...o, html } : o)))}
			/>
			{@render tail?.(option)}
		</div>
		<div class="flex flex-none">
			<button
				type="button"
				class="min-h-[28px] min-w-[24px] cursor-pointer disabled:text-edge-soft"
				aria-label="{what} {option.id} up"
				disabled={at === 0}
				onclick={() => onchange(moved(options, at, at - 1))}>↑</button
			>
			<button
				type="button"
				class="min-h-[28px] min-w-[24px] cursor-pointer disabled:text-edge-soft"
				aria-label="Remove {what} {option.id}"
				disabled={options.length <= least}
				onclick={() => onchange(options.filter((o) => o.id !== option.id))}>×</button
			>
		</div>
	</div>
{/each}
<Button kind="quiet" class="px-0" onclick={() => onchange([...options, { id: fresh(), html: '' }])}>Add {what}</Button>
