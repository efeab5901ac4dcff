<script lang="ts">
	import { Tooltip } from 'bits-ui';
	import type { Snippet } from 'svelte';

	/** A word or two about a control that is seen drop the item; what must be known stands on the page. */
	let { text, children }: { text: string; children: Snippet<[Record<string, unknown>]> } = $props();
</script>

<Tooltip.Provider delayDuration={400}>
	<Tooltip.Root>
		<Tooltip.Trigger>
			{#snippet child({ props })}{@render children(props)}{/snippet}
		</Tooltip.Trigger>
		<Tooltip.Portal>
			<Tooltip.Content class="list max-w-[260px] px-2.5 py-1.5 text-[13px]" sideOffset={4} collisionPadding={8}
				>{text}</Tooltip.Content
			>
		</Tooltip.Portal>
	</Tooltip.Root>
</Tooltip.Provider>
