<script lang="ts">
	import type { Snippet } from 'svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Notice from '$lib/parts/Notice.svelte';

	/** How a page about an item's responses opens, beside their desk: the ways back, a problem, and what there is to know. */
	let {
		page,
		of,
		problem = $bindable(''),
		done = '',
		actions
	}: {
		page: {
			place: string;
			window_id: string;
			number: number;
			item: string;
			form: string;
			window: string;
			finding: string;
		} | null;
		/** what the page is about, after the item's number */
		of: string;
		problem?: string;
		/** what was just done, before the finding */
		done?: string;
		actions?: Snippet;
	} = $props();
</script>

<div class="small mb-1">
	<a class="word" href="/scoring">Scoring</a>{#if page}&ensp;<a
			class="word"
			href="/scoring/{page.place}?window={page.window_id}">Responses one by one</a
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding
			of="Item {page.number}, {of}"
			title="{page.item}, {of}"
			station="Scoring"
			beside="{page.form}, {page.window}"
			class="flex-1"
			live>{done ? `${done} ` : ''}{page.finding}</Finding
		>
		{@render actions?.()}
	</div>
{/if}
