<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Markup from './Markup.svelte';

	/** An item as students see it, with its key underlined for staff. */
	let { item }: { item: Pick<Schemas['BankItemOut'], 'stem' | 'options' | 'kind' | 'key'> } = $props();
	const keys = $derived(item.key.split('|').map((k) => k.trim()));
</script>

<div class="text-[14.5px] leading-normal">
	<Markup html={item.stem} />
	{#if item.options.length}
		<ol class="mt-2">
			{#each item.options as option (option.letter)}
				<li class="flex gap-2.5 py-0.5">
					<b class="w-4 flex-none font-semibold" class:underline={keys.includes(option.letter)}>{option.letter}</b>
					<span><Markup html={option.html} inline />{#if keys.includes(option.letter)}<span class="small ml-2">key</span>{/if}</span>
				</li>
			{/each}
		</ol>
	{:else}
		<p class="mt-2"><span class="small">Answer as a number; key</span> <b>{item.key.replace('~', ' ± ')}</b></p>
	{/if}
</div>
