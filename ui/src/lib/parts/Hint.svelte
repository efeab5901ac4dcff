<script lang="ts">
	import { Popover } from 'bits-ui';
	import type { Snippet } from 'svelte';

	/** A short label with details on hover, focus, and tap. With href it is a link, and a tap follows it. */
	let { says, href, children, more }: { says: string; href?: string; children: Snippet; more: Snippet } = $props();
	let open = $state(false);
	let pinned = $state(false);
	let near = $state(false); // tables hold hundreds of these: what pops up is made for the one that is looked at
	let button = $state<HTMLElement>();

	function show(yes: boolean) {
		if (yes) near = true;
		open = yes;
	}
	/** Stays open after a click or tap until the next one. */
	function tap(event: MouseEvent) {
		event.stopPropagation();
		if (href) return;
		event.preventDefault();
		pinned = !pinned;
		show(pinned);
	}
</script>

<svelte:element
	this={href ? 'a' : 'button'}
	bind:this={button}
	{href}
	type={href ? undefined : 'button'}
	class={href
		? 'word inline-block min-h-6 min-w-6'
		: 'inline-flex min-h-6 cursor-help items-center rounded-[2px] underline decoration-relief3 decoration-dotted underline-offset-[3px]'}
	aria-label={says}
	aria-expanded={href ? undefined : open}
	role={href ? 'link' : 'button'}
	tabindex="0"
	onpointerenter={(e: PointerEvent) => e.pointerType === 'mouse' && show(true)}
	onpointerleave={() => !pinned && show(false)}
	onfocus={() => show(true)}
	onblur={() => ((pinned = false), show(false))}
	onclick={tap}
>
	{@render children()}
</svelte:element>
{#if near}
	<Popover.Root bind:open onOpenChange={(is) => (pinned = is && pinned)}>
		<Popover.Portal>
			<Popover.Content
				class="sheet z-30 max-w-[320px] px-3 py-2 text-[13.5px] shadow-lg"
				customAnchor={button}
				sideOffset={4}
				trapFocus={false}
				onOpenAutoFocus={(e) => e.preventDefault()}
				onCloseAutoFocus={(e) => e.preventDefault()}
				onInteractOutside={(e) => button?.contains(e.target as Node) && e.preventDefault()}
			>
				{@render more()}
			</Popover.Content>
		</Popover.Portal>
	</Popover.Root>
{/if}
