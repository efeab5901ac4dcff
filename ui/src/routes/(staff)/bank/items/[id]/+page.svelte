<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import { api } from '$lib/api/client';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import ItemHistory from '$lib/parts/ItemHistory.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import Preview from './edit/Preview.svelte';
	import { day, percent } from '$lib/words/show';
	import Compare from './Compare.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

{#if shown.it}
	<div class="small mb-1">
		<a class="word" href="/bank">Bank</a> · {[shown.it.subject, shown.it.grade && `grade ${shown.it.grade}`]
			.filter(Boolean)
			.join(', ')}{shown.it.own ? ' · a teacher’s own' : ''}{#if shown.it.origin}{' · a changed copy of '}<a
				class="word"
				href="/bank/items/{shown.it.origin.id}">{shown.it.origin.code}</a
			>{shown.it.origin_version ? `, version ${shown.it.origin_version}` : ''}{/if}
	</div>
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Item" title={shown.it?.code} class="min-w-[300px] flex-1">{shown.it.finding}</Finding>
		{#if shown.it.may_write}
			{#each shown.it.moves as to (to)}<Button
					onclick={() =>
						shown.act(() => api.POST('/api/bank/items/{item_id}/state', { ...shown.at, body: { to, why: '' } }))}
					>{to === 'retired'
						? 'Retire'
						: to === 'resting'
							? 'Rest'
							: to === 'field_test'
								? 'To field test'
								: to === 'in_use'
									? 'Into use'
									: `To ${shown.word(to)}`}</Button
				>{/each}
		{/if}
		{#if shown.it.item}<Button onclick={shown.copy}>Copy item</Button>{/if}
		{#if shown.it.origin && shown.it.may_write && shown.it.item}<Button
				aria-expanded={shown.offering}
				onclick={() => (shown.offering = !shown.offering)}>Propose change</Button
			>{/if}
		{#if shown.it.may_write}<Button kind="primary" href="/bank/items/{shown.id}/edit"
				>{shown.it.draft
					? shown.it.draft === 'in_review'
						? 'Review the draft'
						: 'Go on writing'
					: 'Write the next version'}</Button
			>{/if}
	</div>
	<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
	{#if shown.offering && shown.it.origin}
		<form class="sheet mb-3 flex items-end gap-3 p-4" onsubmit={shown.offer}>
			<label class="field flex-1"
				>Why {shown.it.origin.code} should be replaced by this version<input
					class="input"
					maxlength="2000"
					required
					bind:value={shown.why}
				/></label
			>
			<Button type="submit" kind="primary" class="min-h-[32px]">Submit</Button>
		</form>
	{/if}
	<div class="grid grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] items-start gap-3">
		<div class="grid gap-3">
			{#if shown.it.item}
				{@const item = shown.it.item}
				<Preview
					content={{ shown: item.shown, scoring: item.scoring, behind: item.behind }}
					stimulus={item.stimulus}
					template={item.drawn}
				/>
				{#if item.template}
					<Panel label="Draws" class="flex flex-wrap items-end gap-3 p-4">
						<p class="flex-1">
							This template draws its values. Generate separate items from it.{#if shown.it?.pooled?.items}<span
									class="block text-ink2"
									>{shown.it.pooled.items} drawn so far{#if shown.it.pooled.n && shown.it.pooled.p !== null && shown.it.pooled.low !== null && shown.it.pooled.high !== null};
										{shown.it.pooled.sat} of them taken by {shown.it.pooled.n} students in all: {percent(
											shown.it.pooled.p
										)} got them right, {percent(shown.it.pooled.low)} to {percent(shown.it.pooled.high)} by draw. {shown
											.it.pooled.differ}{:else}; none was used yet{/if}</span
								>{/if}
						</p>
						<label class="field w-[80px]"
							>How many<input class="input" type="number" min="1" max="50" bind:value={shown.count} /></label
						>
						<Button onclick={shown.draw}>Generate</Button>
						{#if shown.drawn.length}<p class="basis-full" role="status">
								Created: {#each shown.drawn as code (code)}<a class="word mr-2" href="/bank?find=code:{code}">{code}</a
									>{/each}
							</p>{/if}
					</Panel>
				{/if}
				{#if shown.it.versions.length > 1 || shown.it.origin}<Compare
						id={shown.id}
						versions={shown.it.versions}
						origin={shown.it.origin}
						originVersion={shown.it.origin_version}
					/>{/if}
			{:else}<Panel class="p-4">
					<p>Nothing to show yet: {shown.it.draft_by || 'someone'} is writing the first version.</p>
				</Panel>{/if}
		</div>
		<div class="grid gap-3">
			{#if shown.it.item}
				<Panel label="Key and notes" headed class="p-4">
					<ItemCard item={shown.it.item} />
					{#if shown.it.item.behind.guidance}<details class="mt-2">
							<summary class="small min-h-[24px] cursor-pointer">Scoring guidance</summary><ItemCard
								item={{ shown: { body: shown.it.item.behind.guidance, parts: [], tools: [] }, scoring: [] }}
							/>
						</details>{/if}
					{#if shown.it.item.behind.solution}<details class="mt-2">
							<summary class="small min-h-[24px] cursor-pointer">Worked solution</summary><ItemCard
								item={{ shown: { body: shown.it.item.behind.solution, parts: [], tools: [] }, scoring: [] }}
							/>
						</details>{/if}
					{#each shown.it.item.behind.hints as hint, n (n)}<details>
							<summary class="small min-h-[24px] cursor-pointer">Hint {n + 1}</summary><ItemCard
								item={{ shown: { body: hint, parts: [], tools: [] }, scoring: [] }}
							/>
						</details>{/each}
				</Panel>
			{/if}
			<Panel label="Tags" headed class="p-4">
				<dl class="grid grid-cols-[auto_1fr] gap-x-4 text-[13.5px]">
					{#each [['Standards', ''], ['Depth', shown.it.tags.depth], ['Topic', shown.it.tags.topic], ['Unit', shown.it.tags.unit], ['Time', shown.it.tags.seconds && `${shown.it.tags.seconds} s`], ['Calculator', shown.it.tags.calculator], ['Language', shown.it.tags.language], ['Source', shown.it.tags.source], ['Keywords', shown.it.tags.labels.join(', ')]].filter(([name, v]) => v || name === 'Standards') as [name, value] (name)}
						<dt class="text-ink2">{name}</dt>
						<dd>
							{#if name === 'Standards'}{#each shown.it.item?.standards ?? [] as code (code)}<StandardCode
										{code}
									/>{' '}{:else}none{/each}{:else}{value}{/if}
						</dd>
					{/each}
					{#if shown.it.enemies.length}<dt class="text-ink2">Enemy items</dt>
						<dd>
							{#each shown.it.enemies as e (e.id)}<a class="word mr-2" href="/bank/items/{e.id}">{e.code}</a>{/each}
						</dd>{/if}
					{#if shown.it.copies.length}<dt class="text-ink2">Copies</dt>
						<dd>
							{#each shown.it.copies as c (c.id)}<a class="word mr-2" href="/bank/items/{c.id}">{c.code}</a>{/each}
						</dd>{/if}
				</dl>
			</Panel>
			<Panel label="History" headed class="px-4 py-3">
				<ItemHistory uses={shown.it.uses} verdicts={shown.it.verdicts} version={shown.it.item?.number ?? 1} />
				<div class="mt-2 border-t border-hair pt-2">
					{#each shown.it.versions as v (v.number)}<p class="small">
							Version {v.number}, {day(v.at)}{v.author ? `, ${v.author}` : ''}
						</p>{/each}
				</div>
			</Panel>
			<Panel label="Comments" headed class="p-4">
				{#each shown.it.comments as c (c.id)}
					<div class="border-b border-hair2 py-1.5 {c.settled ? 'text-ink2' : ''}">
						<p>{c.text}</p>
						<p class="small flex items-center gap-2">
							{c.by}, {day(c.at)}{c.settled ? ', dealt with' : ''}{#if c.own || shown.it.may_write}<button
									class="word min-h-[24px]"
									onclick={() =>
										shown.act(() =>
											api.POST('/api/bank/comments/{comment_id}/settle', { params: { path: { comment_id: c.id } } })
										)}>{c.settled ? 'reopen' : 'resolve'}</button
								>{/if}
						</p>
					</div>
				{/each}
				<form class="mt-2 flex items-end gap-2" onsubmit={shown.say}>
					<label class="field flex-1"
						>Add a comment<textarea class="input" rows="2" maxlength="2000" bind:value={shown.comment}
						></textarea></label
					>
					<Button type="submit" disabled={!shown.comment.trim()}>Post</Button>
				</form>
			</Panel>
		</div>
	</div>
{:else}<Notice text={shown.problem} onclose={() => (shown.problem = '')} />{/if}
