<script lang="ts">
	import { Popover } from 'bits-ui';
	import { staff } from '$lib/state/staff.svelte';

	/** A standard's code with its text behind it: on hover, on focus and at a tap. */
	let { code }: { code: string } = $props();
	const text = $derived(staff.texts[code]);
	let open = $state(false);
	let pinned = $state(false);

	/** Stays open after a click or tap until the next one; the part's own switching is kept out of it. */
	function tap(event: MouseEvent) {
		event.stopPropagation();
		event.preventDefault();
		pinned = !pinned;
		open = pinned;
	}
</script>

{#if text}
	<Popover.Root bind:open onOpenChange={(is) => (pinned = is && pinned)}>
		<Popover.Trigger
			class="inline-flex min-h-6 cursor-help items-center rounded-[2px] underline decoration-relief3 decoration-dotted underline-offset-[3px]"
			aria-label="{code}: {text.text}"
			onpointerenter={(e: PointerEvent) => e.pointerType === 'mouse' && (open = true)}
			onpointerleave={() => !pinned && (open = false)}
			onfocus={() => (open = true)}
			onblur={() => (open = pinned = false)}
			onclick={tap}
		>
			<code>{code}</code>
		</Popover.Trigger>
		<Popover.Portal>
			<Popover.Content class="sheet z-30 max-w-[320px] px-3 py-2 text-[13.5px] shadow-lg" sideOffset={4} trapFocus={false} onOpenAutoFocus={(e) => e.preventDefault()} onCloseAutoFocus={(e) => e.preventDefault()}>
				<code>{code}</code>
				<p>{text.text}</p>
				{#if text.plain}<p class="small mt-1">For families: {text.plain}</p>{/if}
			</Popover.Content>
		</Popover.Portal>
	</Popover.Root>
{:else if code}<code>{code}</code>{/if}
