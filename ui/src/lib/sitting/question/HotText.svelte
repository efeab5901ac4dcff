<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { PartOf } from './answer';

	/** Words or sentences of a text to pick. The server has made the text safe. */
	let { part, value, onput }: { part: PartOf<'hot_text'>; value: string; onput: (text: string) => void } = $props();
	let host: HTMLDivElement;
	const chosen = $derived(value ? value.split('+') : []);

	$effect(() => {
		// eslint-disable-next-line svelte/no-dom-manipulating -- the text is the item’s, made safe by the server; its words are filled below
		host.innerHTML = part.text;
		for (const spot of host.querySelectorAll<HTMLElement>('span[data-pick]')) {
			spot.classList.add('pick');
			spot.tabIndex = 0;
			spot.setAttribute('role', 'checkbox');
		}
	});

	$effect(() => {
		for (const spot of host.querySelectorAll<HTMLElement>('.pick')) {
			const on = chosen.includes(spot.dataset.pick ?? '');
			spot.setAttribute('aria-checked', String(on));
			spot.classList.toggle('on', on);
		}
	});

	function pick(target: EventTarget | null) {
		const spot = (target as HTMLElement | null)?.closest<HTMLElement>('span[data-pick]');
		const id = spot?.dataset.pick;
		if (!id) return false;
		const all = [...host.querySelectorAll<HTMLElement>('span[data-pick]')].map((s) => s.dataset.pick ?? '');
		let next = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id];
		if (part.most === 1) next = next.slice(-1);
		else if (part.most && next.length > part.most) return true;
		onput(all.filter((a) => next.includes(a)).join('+'));
		return true;
	}
</script>

<p class="mb-1 text-[16px] text-ink2">
	{part.most === 1
		? 'Choose one in the text.'
		: part.most
			? `Choose up to ${part.most} in the text.`
			: 'Choose all that apply in the text.'}
</p>
<!-- the pieces themselves can be focused and are named as checkboxes -->
<!-- svelte-ignore a11y_no_static_element_interactions, a11y_click_events_have_key_events -->
<div
	class="markup rounded-md border border-hair bg-paper px-4 py-3 text-[18px] leading-loose"
	bind:this={host}
	onclick={(e) => pick(e.target)}
	onkeydown={(e) => {
		if ((e.key === 'Enter' || e.key === ' ') && pick(e.target)) e.preventDefault();
	}}
></div>
{#if value}<Button kind="quiet" class="px-0 text-[15px]" onclick={() => onput('')}>Clear answer</Button>{/if}
