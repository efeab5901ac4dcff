<script lang="ts">
	import { Tabs } from 'bits-ui';
	import type { Snippet } from 'svelte';
	import type { Choice } from './choices';

	/** Several views of one thing, one at a time. */
	let {
		value = $bindable(),
		tabs,
		label,
		children
	}: { value: string; tabs: readonly Choice<string>[]; label: string; children: Snippet<[string]> } = $props();
</script>

<Tabs.Root bind:value>
	<Tabs.List class="tabs" aria-label={label}>
		{#each tabs as tab (tab.value)}<Tabs.Trigger value={tab.value} disabled={tab.disabled} class="tab"
				>{tab.label}</Tabs.Trigger
			>{/each}
	</Tabs.List>
	{#each tabs as tab (tab.value)}<Tabs.Content value={tab.value}
			>{#if tab.value === value}{@render children(tab.value)}{/if}</Tabs.Content
		>{/each}
</Tabs.Root>
