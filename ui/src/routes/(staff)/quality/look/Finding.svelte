<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import type { Schemas } from '$lib/api/client';
	import { address } from './address.svelte';

	/** The sentence a test opens with; its figures and items lead to their workings. */
	let { pieces, title }: { pieces: Schemas['Piece'][]; title: string } = $props();
</script>

<Finding of="Items" {title} class="mb-3 max-w-[860px]">
	{#each pieces as piece, at (at)}
		{#if piece.item}<button
				class="word text-left {piece.urgent ? 'font-semibold text-vermilion' : ''}"
				onclick={() => address.set({ item: piece.item, figure: null })}>{piece.text.trimEnd()}</button
			>{piece.text.endsWith(' ') ? ' ' : ''}
		{:else if piece.figure}<button class="word" onclick={() => address.set({ figure: piece.figure, item: null })}
				>{piece.text.trimEnd()}</button
			>{piece.text.endsWith(' ') ? ' ' : ''}
		{:else}{piece.text}{/if}
	{/each}
</Finding>
