<script lang="ts">
	import { Popover } from 'bits-ui';
	import type { Snippet } from 'svelte';

	/** Something short with more behind it: on hover, on focus and at a tap. says: for whoever hears the page. */
	let { says, children, more }: { says: string; children: Snippet; more: Snippet } = $props();
	let open = $state(false);
	let pinned = $state(false);
	let near = $state(false); // tables hold hundreds of these: what pops up is made for the one that is looked at
	let button = $state<HTMLButtonElement>();

	function show(yes: boolean) {
		if (yes) near = true;
		open = yes;
	}
	/** Stays open after a click or tap until the next one. */
	function tap(event: MouseEvent) {
		event.stopPropagation();
		event.preventDefault();
		pinned = !pinned;
		show(pinned);
	}
</script>

<button
	bind:this={button}
	type="button"
	class="inline-flex min-h-6 cursor-help items-center rounded-[2px] underline decoration-relief3 decoration-dotted underline-offset-[3px]"
	aria-label={says}
	aria-expanded={open}
	onpointerenter={(e) => e.pointerType === 'mouse' && show(true)}
	onpointerleave={() => !pinned && show(false)}
	onfocus={() => show(true)}
	onblur={() => ((pinned = false), show(false))}
	onclick={tap}
>
	{@render children()}
</button>
{#if near}
	<Popover.Root bind:open onOpenChange={(is) => (pinned = is && pinned)}>
		<Popover.Portal>
			<Popover.Content class="sheet z-30 max-w-[320px] px-3 py-2 text-[13.5px] shadow-lg" customAnchor={button} sideOffset={4} trapFocus={false} onOpenAutoFocus={(e) => e.preventDefault()} onCloseAutoFocus={(e) => e.preventDefault()} onInteractOutside={(e) => button?.contains(e.target as Node) && e.preventDefault()}>
				{@render more()}
			</Popover.Content>
		</Popover.Portal>
	</Popover.Root>
{/if}
