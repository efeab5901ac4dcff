<script lang="ts">
	import { DropdownMenu } from 'bits-ui';
	import type { Snippet } from 'svelte';

	type Entry = { label: string; does?: () => void; href?: string; grave?: boolean; disabled?: boolean };

	/** Actions that are used now and then, behind one button. */
	let {
		label,
		entries,
		quiet = false,
		children
	}: { label: string; entries: readonly Entry[]; quiet?: boolean; children?: Snippet } = $props();
</script>

<DropdownMenu.Root>
	<DropdownMenu.Trigger class="btn {quiet ? 'quiet' : ''}" aria-label={children ? label : undefined}>
		{#if children}{@render children()}{:else}{label}{/if}
		<svg class="fill-none stroke-current" viewBox="0 0 10 6" width="10" height="6" aria-hidden="true"
			><path stroke-width="1.5" d="m1 1 4 4 4-4" /></svg
		>
	</DropdownMenu.Trigger>
	<DropdownMenu.Portal>
		<DropdownMenu.Content class="list" sideOffset={3} collisionPadding={8} align="end" aria-label={label}>
			{#each entries as entry (entry.label)}
				<DropdownMenu.Item disabled={entry.disabled} onSelect={() => entry.does?.()}>
					{#snippet child({ props })}
						{#if entry.href}<a
								{...props}
								class="listed"
								href={entry.href}
								download={entry.href.startsWith('/api/') ? '' : undefined}>{entry.label}</a
							>
						{:else}<div {...props} class="listed {entry.grave ? 'text-vermilion' : ''}">{entry.label}</div>{/if}
					{/snippet}
				</DropdownMenu.Item>
			{/each}
		</DropdownMenu.Content>
	</DropdownMenu.Portal>
</DropdownMenu.Root>
