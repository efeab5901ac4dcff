<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Markup from '$lib/parts/Markup.svelte';
	import { moved, type PartOf } from './answer';

	/** Things to put in order, by dragging or with the arrows. Untouched it is no answer. */
	let { part, value, onput }: { part: PartOf<'order'>; value: string; onput: (text: string) => void } = $props();
	const ids = $derived(value ? value.split('>') : part.options.map((o) => o.id));
	const html = $derived(new Map(part.options.map((o) => [o.id, o.html])));
	let dragged = $state<number | null>(null);
	let list: HTMLOListElement;

	function go(from: number, to: number) {
		if (to < 0 || to >= ids.length) return;
		onput(moved(ids, from, to).join('>'));
		requestAnimationFrame(() => (list.children[to]?.querySelector('[data-handle]') as HTMLElement | null)?.focus());
	}

	function keys(event: KeyboardEvent, at: number) {
		const step = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
		if (!step) return;
		event.preventDefault();
		event.stopPropagation();
		go(at, at + step);
	}

	/** While a thing is dragged, it takes the place that the pointer is over. */
	function over(event: PointerEvent) {
		if (dragged === null) return;
		const at = [...list.children].findIndex((row) => {
			const box = row.getBoundingClientRect();
			return event.clientY >= box.top && event.clientY < box.bottom;
		});
		if (at >= 0 && at !== dragged) {
			onput(moved(ids, dragged, at).join('>'));
			dragged = at;
		}
	}
</script>

<p class="text-[16px] text-ink2">Drag them into order{value ? '' : '; not answered yet'}.</p>
<ol bind:this={list} class="my-2">
	{#each ids as id, at (id)}
		<li
			class="my-1.5 flex items-stretch rounded-md border-[1.5px] {value
				? 'border-petrol bg-wash'
				: 'border-edge-soft'} {dragged === at ? 'shadow-lg' : ''}"
		>
			<button
				type="button"
				data-handle
				class="flex min-h-[52px] min-w-0 flex-1 cursor-grab touch-none items-center gap-4 px-4 py-2 text-left"
				aria-label="Place {at + 1}: {(html.get(id) ?? '').replace(/<[^>]+>/g, ' ')}; move with the arrow keys"
				onkeydown={(e) => keys(e, at)}
				onpointerdown={(e) => {
					dragged = at;
					e.currentTarget.setPointerCapture(e.pointerId);
				}}
				onpointermove={over}
				onpointerup={() => (dragged = null)}
				onpointercancel={() => (dragged = null)}
			>
				<b class="w-6 flex-none font-semibold text-ink2">{at + 1}</b>
				<span class="min-w-0"><Markup html={html.get(id) ?? ''} inline /></span>
			</button>
			<span class="flex flex-none flex-col border-l border-hair">
				<button
					type="button"
					class="min-h-[26px] flex-1 cursor-pointer px-3 text-[14px] disabled:text-edge-soft"
					aria-label="Up"
					disabled={at === 0}
					onclick={() => go(at, at - 1)}>↑</button
				>
				<button
					type="button"
					class="min-h-[26px] flex-1 cursor-pointer px-3 text-[14px] disabled:text-edge-soft"
					aria-label="Down"
					disabled={at === ids.length - 1}
					onclick={() => go(at, at + 1)}>↓</button
				>
			</span>
		</li>
	{/each}
</ol>
{#if value}<Button kind="quiet" class="px-0 text-[15px]" onclick={() => onput('')}>Clear answer</Button>
{:else}<Button class="min-h-[44px] text-[16px]" onclick={() => onput(ids.join('>'))}>Keep this order</Button>{/if}
