<script lang="ts">
	import { Popover } from 'bits-ui';
	import type { Snippet } from 'svelte';

	/** More about something, beside it, while the page stays as it is. */
	let {
		open = $bindable(false),
		label,
		button = 'btn',
		shown,
		children
	}: { open?: boolean; label: string; button?: string; shown: Snippet; children: Snippet } = $props();
</script>

<Popover.Root bind:open>
	<Popover.Trigger class={button} aria-label={label}>{@render shown()}</Popover.Trigger>
	<Popover.Portal>
		<Popover.Content
			class="list max-w-[360px] px-3.5 py-3 text-[13.5px]"
			sideOffset={4}
			collisionPadding={8}
			aria-label={label}
		>
			{@render children()}
		</Popover.Content>
	</Popover.Portal>
</Popover.Root>
