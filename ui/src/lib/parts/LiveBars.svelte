<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Markup from '$lib/parts/Markup.svelte';
	import { hue } from '$lib/words/show';

	/** Answers of a class as bars, in the order of the options; what is right is marked by a word as well. */
	let {
		bars,
		title,
		large = false,
		notes = false
	}: { bars: Schemas['LiveBar'][]; title: string; large?: boolean; notes?: boolean } = $props();
	const most = $derived(Math.max(1, ...bars.map((b) => b.n)));
</script>

<figure class="m-0" aria-label={title}>
	<figcaption class={large ? 'mb-3 text-[22px] text-ink2' : 'small mb-1'}>{title}</figcaption>
	{#if !bars.length}<p class={large ? 'text-[22px]' : 'text-[14px]'}>No answers yet.</p>{/if}
	<ul class="m-0 list-none p-0">
		{#each bars as bar, at (bar.answer)}
			<li class="flex items-center gap-3 {large ? 'min-h-[64px] text-[26px]' : 'min-h-[34px] text-[15px]'}">
				<b class="{large ? 'w-12' : 'min-w-[26px]'} flex-none">{bar.answer}</b>
				<span class="relative {large ? 'h-11' : 'h-5'} min-w-0 flex-1 bg-hair2">
					<span
						class="absolute inset-y-0 left-0 block {bar.right ? 'outline-[3px] outline-ink' : ''}"
						style:width="{(100 * bar.n) / most}%"
						style:background={hue(at)}
					></span>
				</span>
				<span class="{large ? 'w-16' : 'w-8'} flex-none text-right tabular-nums">{bar.n}</span>
				<span class="{large ? 'w-28 text-[20px]' : 'w-16 text-[13px]'} flex-none font-semibold"
					>{bar.right ? 'correct' : ''}</span
				>
			</li>
			{#if bar.says || (notes && bar.note)}<li class="mb-1 pl-[38px] {large ? 'text-[20px]' : 'text-[14px]'} text-ink2">
					{#if bar.says}<Markup html={bar.says} inline />{/if}{#if notes && bar.note && bar.n}<span
							class="block text-ink">{bar.note}</span
						>{/if}
				</li>{/if}
		{/each}
	</ul>
</figure>
