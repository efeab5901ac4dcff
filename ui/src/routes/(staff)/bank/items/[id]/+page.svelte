<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import ItemHistory from '$lib/parts/ItemHistory.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import Preview from './edit/Preview.svelte';
	import { day, percent } from '$lib/words/show';
	import Compare from './Compare.svelte';

	/** One item: what it is, what it did, where it stands, what was said about it. */
	let it = $state<Schemas['ItemPage'] | null>(null);
	let problem = $state('');
	let comment = $state('');
	let why = $state('');
	let count = $state(5);
	let drawn = $state<string[]>([]);
	let offering = $state(false);
	const id = $derived(page.params.id ?? '');
	const STATES: Record<string, string> = { field_test: 'field test', in_use: 'in use' };
	const word = (state: string) => STATES[state] ?? state;

	onMount(load);
	$effect(() => {
		if (it && it.item_id !== id) void load();
	});
	async function load() {
		try {
			it = await body(api.GET('/api/bank/items/{item_id}', { params: { path: { item_id: id } } }));
		} catch (error) {
			problem = said(error);
		}
	}
	async function act(work: () => Promise<unknown>) {
		try {
			problem = '';
			await work();
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
	const at = $derived({ params: { path: { item_id: id } } });
	async function copy() {
		await act(async () => {
			const made = await body(api.POST('/api/bank/items/{item_id}/copy', at));
			await goto(`/bank/items/${made.item_id}/edit`);
		});
	}
	async function say(event: SubmitEvent) {
		event.preventDefault();
		await act(() => api.POST('/api/bank/items/{item_id}/comments', { ...at, body: { text: comment } }));
		if (!problem) comment = '';
	}
	async function offer(event: SubmitEvent) {
		event.preventDefault();
		await act(() => api.POST('/api/bank/items/{item_id}/offer', { ...at, body: { text: why } }));
		if (!problem) [offering, why] = [false, ''];
	}
	async function draw() {
		await act(async () => {
			drawn = (
				await body(
					api.POST('/api/bank/items/{item_id}/draws', { ...at, body: { count, seed: Math.floor(Math.random() * 1e6) } })
				)
			).codes;
		});
	}
</script>

<svelte:head><title>{it?.code ?? 'Item'} · Bildung</title></svelte:head>

{#if it}
	<div class="small mb-1">
		<a class="word" href="/bank">Bank</a> · {[it.subject, it.grade && `grade ${it.grade}`]
			.filter(Boolean)
			.join(', ')}{it.own ? ' · a teacher’s own' : ''}{#if it.origin}{' · a changed copy of '}<a
				class="word"
				href="/bank/items/{it.origin.id}">{it.origin.code}</a
			>{it.origin_version ? `, version ${it.origin_version}` : ''}{/if}
	</div>
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<h1 class="min-w-[300px] flex-1">{it.finding}</h1>
		{#if it.may_write}
			{#each it.moves as to (to)}<button
					class="btn"
					onclick={() => act(() => api.POST('/api/bank/items/{item_id}/state', { ...at, body: { to, why: '' } }))}
					>{to === 'retired'
						? 'Retire'
						: to === 'resting'
							? 'Let it rest'
							: to === 'field_test'
								? 'To field test'
								: to === 'in_use'
									? 'Into use'
									: `To ${word(to)}`}</button
				>{/each}
		{/if}
		{#if it.item}<button class="btn" onclick={copy}>Make a changed copy</button>{/if}
		{#if it.origin && it.may_write && it.item}<button
				class="btn"
				aria-expanded={offering}
				onclick={() => (offering = !offering)}>Offer it back</button
			>{/if}
		{#if it.may_write}<a class="btn primary" href="/bank/items/{id}/edit"
				>{it.draft ? (it.draft === 'in_review' ? 'Review the draft' : 'Go on writing') : 'Write the next version'}</a
			>{/if}
	</div>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if offering && it.origin}
		<form class="sheet mb-3 flex items-end gap-3 p-4" onsubmit={offer}>
			<label class="field flex-1"
				>Why {it.origin.code} should become like this one<input
					class="input"
					maxlength="2000"
					required
					bind:value={why}
				/></label
			>
			<button class="btn primary !min-h-[32px]">Lay it before the keepers</button>
		</form>
	{/if}
	<div class="grid grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] items-start gap-3">
		<div class="grid gap-3">
			{#if it.item}
				{@const item = it.item}
				<Preview
					content={{ shown: item.shown, scoring: item.scoring, behind: item.behind }}
					stimulus={item.stimulus}
					template={item.drawn}
				/>
				{#if item.template}
					<section class="sheet flex flex-wrap items-end gap-3 p-4" aria-label="Draws">
						<p class="flex-1">
							A template: its values are drawn. Make items of their own from it, each another.{#if it?.pooled?.items}<span
									class="block text-ink2"
									>{it.pooled.items} drawn so far{#if it.pooled.n && it.pooled.p !== null && it.pooled.low !== null && it.pooled.high !== null};
										{it.pooled.sat} of them sat by {it.pooled.n} altogether: {percent(it.pooled.p)} got them right, {percent(
											it.pooled.low
										)} to {percent(it.pooled.high)} by draw. {it.pooled.differ}{:else}; none was sat yet{/if}</span
								>{/if}
						</p>
						<label class="field w-[80px]"
							>How many<input class="input" type="number" min="1" max="50" bind:value={count} /></label
						>
						<button class="btn" onclick={draw}>Draw them</button>
						{#if drawn.length}<p class="basis-full" role="status">
								Made: {#each drawn as code (code)}<a class="word mr-2" href="/bank?find=code:{code}">{code}</a>{/each}
							</p>{/if}
					</section>
				{/if}
				{#if it.versions.length > 1 || it.origin}<Compare
						{id}
						versions={it.versions}
						origin={it.origin}
						originVersion={it.origin_version}
					/>{/if}
			{:else}<section class="sheet p-4">
					<p>Nothing to see yet: {it.draft_by || 'somebody'} is writing the first version.</p>
				</section>{/if}
		</div>
		<div class="grid gap-3">
			{#if it.item}
				<section class="sheet p-4" aria-label="Key and notes">
					<h2 class="mb-2">Key and notes</h2>
					<ItemCard item={it.item} />
					{#if it.item.behind.guidance}<details class="mt-2">
							<summary class="small min-h-[24px] cursor-pointer">Scoring guidance</summary><ItemCard
								item={{ shown: { body: it.item.behind.guidance, parts: [], tools: [] }, scoring: [] }}
							/>
						</details>{/if}
					{#if it.item.behind.solution}<details class="mt-2">
							<summary class="small min-h-[24px] cursor-pointer">Worked solution</summary><ItemCard
								item={{ shown: { body: it.item.behind.solution, parts: [], tools: [] }, scoring: [] }}
							/>
						</details>{/if}
					{#each it.item.behind.hints as hint, n (n)}<details>
							<summary class="small min-h-[24px] cursor-pointer">Hint {n + 1}</summary><ItemCard
								item={{ shown: { body: hint, parts: [], tools: [] }, scoring: [] }}
							/>
						</details>{/each}
				</section>
			{/if}
			<section class="sheet p-4" aria-label="Tags">
				<h2 class="mb-1">Tags</h2>
				<dl class="grid grid-cols-[auto_1fr] gap-x-4 text-[13.5px]">
					{#each [['Standards', ''], ['Depth', it.tags.depth], ['Topic', it.tags.topic], ['Unit', it.tags.unit], ['Time', it.tags.seconds && `${it.tags.seconds} s`], ['Calculator', it.tags.calculator], ['Language', it.tags.language], ['Source', it.tags.source], ['Free tags', it.tags.labels.join(', ')]].filter(([name, v]) => v || name === 'Standards') as [name, value] (name)}
						<dt class="text-ink2">{name}</dt>
						<dd>
							{#if name === 'Standards'}{#each it.item?.standards ?? [] as code (code)}<StandardCode
										{code}
									/>{' '}{:else}none{/each}{:else}{value}{/if}
						</dd>
					{/each}
					{#if it.enemies.length}<dt class="text-ink2">Never with</dt>
						<dd>
							{#each it.enemies as e (e.id)}<a class="word mr-2" href="/bank/items/{e.id}">{e.code}</a>{/each}
						</dd>{/if}
					{#if it.copies.length}<dt class="text-ink2">Copies</dt>
						<dd>
							{#each it.copies as c (c.id)}<a class="word mr-2" href="/bank/items/{c.id}">{c.code}</a>{/each}
						</dd>{/if}
				</dl>
			</section>
			<section class="sheet px-4 py-3" aria-label="History">
				<h2>History</h2>
				<ItemHistory uses={it.uses} verdicts={it.verdicts} version={it.item?.number ?? 1} />
				<div class="mt-2 border-t border-hair pt-2">
					{#each it.versions as v (v.number)}<p class="small">
							Version {v.number}, {day(v.at)}{v.author ? `, ${v.author}` : ''}
						</p>{/each}
				</div>
			</section>
			<section class="sheet p-4" aria-label="Comments">
				<h2 class="mb-1">Comments</h2>
				{#each it.comments as c (c.id)}
					<div class="border-b border-hair2 py-1.5 {c.settled ? 'text-ink2' : ''}">
						<p>{c.text}</p>
						<p class="small flex items-center gap-2">
							{c.by}, {day(c.at)}{c.settled ? ', dealt with' : ''}{#if c.own || it.may_write}<button
									class="word min-h-[24px]"
									onclick={() =>
										act(() =>
											api.POST('/api/bank/comments/{comment_id}/settle', { params: { path: { comment_id: c.id } } })
										)}>{c.settled ? 'open it again' : 'it is dealt with'}</button
								>{/if}
						</p>
					</div>
				{/each}
				<form class="mt-2 flex items-end gap-2" onsubmit={say}>
					<label class="field flex-1"
						>Say something about it<textarea class="input" rows="2" maxlength="2000" bind:value={comment}
						></textarea></label
					>
					<button class="btn" disabled={!comment.trim()}>Say it</button>
				</form>
			</section>
		</div>
	</div>
{:else}<Notice text={problem} onclose={() => (problem = '')} />{/if}
