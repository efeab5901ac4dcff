<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import { goto } from '$app/navigation';
	import { type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { moment } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="small mb-1"><a class="word" href="/bank">Bank</a> · Drafts and reviews</div>
<Finding of="Drafts and reviews" class="mb-3">{shown.found?.finding ?? ''}</Finding>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />

{#snippet lines(some: Schemas['Written'][], review: boolean)}
	<Table within="max-w-full">
		<thead
			><tr
				><th>Item</th><th>Standard</th><th>Item text</th><th>{review ? 'Author' : 'Status'}</th><th class="n"
					>Comments</th
				><th>{review ? 'Submitted' : 'Last edited'}</th></tr
			></thead
		>
		<tbody>
			{#each some as w (w.item_id)}
				<tr tabindex="-1" data-row onclick={() => goto(`/bank/items/${w.item_id}/edit`)}>
					<td class="whitespace-nowrap"
						><a class="word" href="/bank/items/{w.item_id}/edit"><code>{w.code}</code></a>
						<div class="small">{w.changes === null ? 'new item' : `revises version ${w.changes}`}</div></td
					>
					<td class="whitespace-nowrap"
						><StandardCode code={w.standard} />
						<div class="small">{[w.subject, w.grade && `grade ${w.grade}`].filter(Boolean).join(', ')}</div></td
					>
					<td class="max-w-[420px] truncate" title={w.text}>{w.text || 'No text yet'}</td>
					<td class="whitespace-nowrap">{review ? w.author || 'Former staff member' : shown.still(w)}</td>
					<td class="n">{w.comments || ''}</td>
					<td class="whitespace-nowrap">{moment(w.updated_at)}</td>
				</tr>
			{/each}
		</tbody>
	</Table>
{/snippet}

{#if shown.found}
	<Panel label="Items to review" class="mb-3">
		<h2 class="px-4 py-2.5 {shown.found.review.length ? 'border-b border-hair' : ''}">
			Items to review <span class="small font-normal"
				>{shown.found.review.length || 'nothing'}{shown.found.review.length ? ', oldest first' : ''}</span
			>
		</h2>
		{#if shown.found.review.length}{@render lines(shown.found.review, true)}{/if}
	</Panel>
	<Panel label="Your drafts">
		<h2 class="px-4 py-2.5 {shown.found.mine.length ? 'border-b border-hair' : ''}">
			Your drafts <span class="small font-normal"
				>{shown.found.mine.length || 'none'}{shown.found.mine.length ? ', most recent first' : ''}</span
			>
		</h2>
		{#if shown.found.mine.length}{@render lines(shown.found.mine, false)}{/if}
	</Panel>
{/if}
