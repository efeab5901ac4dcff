<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Markup from '$lib/parts/Markup.svelte';

	/** What several questions are about. Lines of a passage are numbered as they stand on this screen. */
	let { stimulus }: { stimulus: Schemas['StimulusShown'] } = $props();
	let host = $state<HTMLDivElement>();
	let width = $state(0);
	let marks = $state<{ n: number; top: number }[]>([]);

	$effect(() => {
		if (!host || !stimulus.numbered || !width) return;
		const top = host.getBoundingClientRect().top;
		const lines = new Set<number>();
		for (const block of host.querySelectorAll('p, li, blockquote')) {
			const range = document.createRange();
			range.selectNodeContents(block);
			for (const box of range.getClientRects()) if (box.height > 4) lines.add(Math.round((box.top - top) / 6) * 6);
		}
		marks = [...lines]
			.toSorted((a, b) => a - b)
			.map((y, at) => ({ n: at + 1, top: y }))
			.filter((m) => m.n === 1 || m.n % 5 === 0);
	});
</script>

<section aria-label={stimulus.title}>
	<h2 class="mb-2 text-[19px]">{stimulus.title}</h2>
	{#if stimulus.kind === 'picture'}
		<img class="max-w-full rounded" src="/api/media/{stimulus.media}" alt={stimulus.told} />
	{:else if stimulus.kind === 'audio'}
		<audio class="w-full" controls preload="metadata" src="/api/media/{stimulus.media}"><track kind="captions" /></audio
		>
		<details class="mt-2 text-[16px]">
			<summary class="min-h-[32px] cursor-pointer text-ink2">Read the text</summary>
			<p class="mt-1">{stimulus.told}</p>
		</details>
	{:else}
		<div class="relative {stimulus.numbered ? 'pl-9' : ''}" bind:clientWidth={width}>
			{#each marks as m (m.n)}<span
					class="absolute left-0 w-6 text-right text-[13px] leading-[1.9] text-ink2"
					style:top="{m.top}px"
					aria-hidden="true">{m.n}</span
				>{/each}
			<div bind:this={host} class="stimulus"><Markup html={stimulus.html} /></div>
		</div>
	{/if}
	{#if stimulus.credit}<p class="mt-2 text-[13px] text-ink2">{stimulus.credit}</p>{/if}
</section>
