<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { moment } from '$lib/words/show';

	/** What waits for this person's review, and what they are writing themselves. */
	let found = $state<Schemas['Writing'] | null>(null);
	let problem = $state('');
	onMount(async () => {
		try {
			found = await body(api.GET('/api/bank/writing'));
		} catch (error) {
			problem = said(error);
		}
	});
	const still = (w: Schemas['Written']) =>
		w.faults
			? `${w.faults} ${w.faults === 1 ? 'problem' : 'problems'} to fix`
			: w.stage === 'in_review'
				? 'in review'
				: 'complete, ready to submit for review';
</script>

<svelte:head><title>Drafts and reviews · Bildung</title></svelte:head>
<div class="small mb-1"><a class="word" href="/bank">Bank</a> · Drafts and reviews</div>
<h1 class="mb-3">{found?.finding ?? ''}</h1>
<Notice text={problem} onclose={() => (problem = '')} />

{#snippet lines(some: Schemas['Written'][], review: boolean)}
	<div {@attach scrollable} class="frozen">
		<table>
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
						<td class="whitespace-nowrap">{review ? w.author || 'Former staff member' : still(w)}</td>
						<td class="n">{w.comments || ''}</td>
						<td class="whitespace-nowrap">{moment(w.updated_at)}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</div>
{/snippet}

{#if found}
	<section class="sheet mb-3" aria-label="Items to review">
		<h2 class="px-4 py-2.5 {found.review.length ? 'border-b border-hair' : ''}">
			Items to review <span class="small font-normal"
				>{found.review.length || 'nothing'}{found.review.length ? ', oldest first' : ''}</span
			>
		</h2>
		{#if found.review.length}{@render lines(found.review, true)}{/if}
	</section>
	<section class="sheet" aria-label="Your drafts">
		<h2 class="px-4 py-2.5 {found.mine.length ? 'border-b border-hair' : ''}">
			Your drafts <span class="small font-normal"
				>{found.mine.length || 'none'}{found.mine.length ? ', most recent first' : ''}</span
			>
		</h2>
		{#if found.mine.length}{@render lines(found.mine, false)}{/if}
	</section>
{/if}
