<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { moment } from '$lib/words/show';

	/** What waits for this person's review, and what they are writing themselves. */
	let found = $state<Schemas['WritingOut'] | null>(null);
	let problem = $state('');
	onMount(async () => {
		try {
			found = await body(api.GET('/api/bank/writing'));
		} catch (error) {
			problem = said(error);
		}
	});
	const still = (w: Schemas['WrittenOut']) => (w.faults ? `${w.faults} ${w.faults === 1 ? 'thing' : 'things'} still wanted` : w.stage === 'in_review' ? 'with a reviewer' : 'whole; hand it in for review');
</script>

<svelte:head><title>Writing and review · Bildung</title></svelte:head>
<div class="small mb-1"><a class="word" href="/bank">Bank</a> · Writing and review</div>
<h1 class="mb-3">{found?.finding ?? ''}</h1>
<Notice text={problem} onclose={() => (problem = '')} />

{#snippet lines(some: Schemas['WrittenOut'][], review: boolean)}
	<table>
		<thead><tr><th>Item</th><th>Standard</th><th>It begins</th><th>{review ? 'By' : 'Where it stands'}</th><th class="n">Comments</th><th>{review ? 'Handed in' : 'Last written'}</th></tr></thead>
		<tbody>
			{#each some as w (w.item_id)}
				<tr tabindex="-1" data-row onclick={() => goto(`/bank/items/${w.item_id}/edit`)}>
					<td class="whitespace-nowrap"><a class="word" href="/bank/items/{w.item_id}/edit"><code>{w.code}</code></a><div class="small">{w.changes === null ? 'new item' : `after version ${w.changes}`}</div></td>
					<td class="whitespace-nowrap"><StandardCode code={w.standard} /><div class="small">{[w.subject, w.grade && `grade ${w.grade}`].filter(Boolean).join(', ')}</div></td>
					<td class="max-w-[420px] truncate" title={w.text}>{w.text || 'nothing written yet'}</td>
					<td class="whitespace-nowrap">{review ? w.author || 'somebody who left' : still(w)}</td>
					<td class="n">{w.comments || ''}</td>
					<td class="whitespace-nowrap">{moment(w.updated_at)}</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/snippet}

{#if found}
	<section class="sheet mb-3" aria-label="Waiting for your review">
		<h2 class="px-4 py-2.5 {found.review.length ? 'border-b border-hair' : ''}">Waiting for your review <span class="small font-normal">{found.review.length || 'nothing'}{found.review.length ? ', longest waiting first' : ''}</span></h2>
		{#if found.review.length}{@render lines(found.review, true)}{/if}
	</section>
	<section class="sheet" aria-label="Your drafts">
		<h2 class="px-4 py-2.5 {found.mine.length ? 'border-b border-hair' : ''}">Your drafts <span class="small font-normal">{found.mine.length || 'none'}{found.mine.length ? ', latest first' : ''}</span></h2>
		{#if found.mine.length}{@render lines(found.mine, false)}{/if}
	</section>
{/if}
