<script lang="ts">
	import { Popover } from 'bits-ui';
	import { staff } from '$lib/state/staff.svelte';

	/** A standard's code with its text behind it: on hover, on focus and at a tap. */
	let { code }: { code: string } = $props();
	const text = $derived(staff.texts[code]);
	let open = $state(false);
	let pinned = $state(false);
	let near = $state(false); // tables hold hundreds of codes: what pops up is made for the one that is looked at
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

{#if text}
	<button
		bind:this={button}
		type="button"
		class="inline-flex min-h-6 cursor-help items-center rounded-[2px] underline decoration-relief3 decoration-dotted underline-offset-[3px]"
		aria-label="{code}: {text.text}"
		aria-expanded={open}
		onpointerenter={(e) => e.pointerType === 'mouse' && show(true)}
		onpointerleave={() => !pinned && show(false)}
		onfocus={() => show(true)}
		onblur={() => ((pinned = false), show(false))}
		onclick={tap}
	>
		<code>{code}</code>
	</button>
	{#if near}
		<Popover.Root bind:open onOpenChange={(is) => (pinned = is && pinned)}>
			<Popover.Portal>
				<Popover.Content class="sheet z-30 max-w-[320px] px-3 py-2 text-[13.5px] shadow-lg" customAnchor={button} sideOffset={4} trapFocus={false} onOpenAutoFocus={(e) => e.preventDefault()} onCloseAutoFocus={(e) => e.preventDefault()} onInteractOutside={(e) => button?.contains(e.target as Node) && e.preventDefault()}>
					<code>{code}</code>
					<p>{text.text}</p>
					{#if text.plain}<p class="small mt-1">For families: {text.plain}</p>{/if}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	{/if}
{:else if code}<code>{code}</code>{/if}
