<script lang="ts" generics="T">
	import { Accordion } from 'bits-ui';
	import type { Snippet } from 'svelte';
	import type { Choice } from './choices';

	/** Sections of which one or several are open. */
	let {
		sections,
		open = $bindable([]),
		children
	}: { sections: readonly Choice<T>[]; open?: string[]; children: Snippet<[T]> } = $props();
</script>

<Accordion.Root type="multiple" bind:value={open}>
	{#each sections as section, at (at)}
		<Accordion.Item value={String(at)} class="border-b border-hair">
			<Accordion.Header level={3}>
				<Accordion.Trigger
					class="flex min-h-9 w-full cursor-pointer items-center gap-2 text-left text-[14px] font-semibold hover:bg-wash"
				>
					<svg class="fill-none stroke-current" viewBox="0 0 6 10" width="6" height="10" aria-hidden="true"
						><path stroke-width="1.5" d={open.includes(String(at)) ? 'm0 3 3 4 3-4' : 'm1 1 4 4-4 4'} /></svg
					>{section.label}{#if section.more}<span class="small font-normal">{section.more}</span>{/if}
				</Accordion.Trigger>
			</Accordion.Header>
			<Accordion.Content class="pb-3">{@render children(section.value)}</Accordion.Content>
		</Accordion.Item>
	{/each}
</Accordion.Root>
