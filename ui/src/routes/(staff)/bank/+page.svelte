<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import ItemHistory from '$lib/parts/ItemHistory.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import StandardTree from '$lib/parts/StandardTree.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { plain } from '$lib/words/plain';
	import { percent, reliefColor, short, day } from '$lib/words/show';
	import ExportPanel from './ExportPanel.svelte';
	import { valueOf, withValue } from './line';
	import Narrow from './Narrow.svelte';
	import NewItem from './NewItem.svelte';
	import TagPanel from './TagPanel.svelte';

	let overview = $state<Schemas['BankOverview'] | null>(null);
	let fields = $state<Schemas['Fields'] | null>(null);
	let found = $state<Schemas['BankOut'] | null>(null);
	let problem = $state('');
	let wrong = $state(''); // what the line itself says that is not understood
	let panel = $state<'' | 'in' | 'out' | 'new' | 'tags' | 'narrow'>('');
	let marked = $state<string[]>([]);
	let typed = $state('');
	let asked = 0;
	let shown = $state(60);
	let timer: ReturnType<typeof setTimeout> | undefined;
	const monthOf = (iso: string) => day(iso).replace(/^\d+ /, '');

	const query = $derived(page.url.searchParams);
	const line = $derived(query.get('find') ?? '');
	const order = $derived(query.get('order') ?? 'code');
	const chosen = $derived(found?.items.find((f) => f.item.code === query.get('item')) ?? found?.items[0] ?? null);
	const texts = $derived(new Map((overview?.standards ?? []).map((s) => [s.code, s.text])));
	const kinds = $derived(new Map((fields?.kinds ?? []).map((k) => [k.name, String(k.value)])));
	const narrowed = $derived(line.split(/\s+/).filter((w) => /[:<>]/.test(w)).length);

	onMount(async () => {
		typed = line;
		try {
			[overview, fields] = await Promise.all([body(api.GET('/api/bank/overview')), body(api.GET('/api/bank/fields'))]);
			if (overview.standards.every((s) => s.items === 0) && staff.may('bank.keep')) panel = 'in';
			await search();
		} catch (error) {
			problem = said(error);
		}
	});

	async function load() {
		overview = await body(api.GET('/api/bank/overview'));
		await search();
	}

	async function search() {
		const mine = ++asked;
		try {
			const answer = await body(api.GET('/api/bank/items', { params: { query: { find: line, order, limit: shown } } }));
			if (mine !== asked) return;
			found = answer;
			wrong = '';
			marked = marked.filter((id) => answer.items.some((f) => f.item.item_id === id));
		} catch (error) {
			if (mine === asked) wrong = said(error);
		}
	}

	async function go(values: Record<string, string>, again = true) {
		const url = new URL(page.url);
		for (const [name, value] of Object.entries(values)) {
			if (value) url.searchParams.set(name, value);
			else url.searchParams.delete(name);
		}
		if (again) url.searchParams.delete('item');
		await goto(url, { replaceState: true, keepFocus: true, noScroll: true });
		if (again) await search();
	}

	function look(text: string) {
		typed = text;
		clearTimeout(timer);
		timer = setTimeout(() => void go({ find: text.trim() }), 120);
	}
	const narrow = (field: string, value: string, sign = ':') => look(withValue(typed, field, value, sign));
	const toggle = (name: typeof panel) => (panel = panel === name ? '' : name);
	const mark = (id: string) => (marked = marked.includes(id) ? marked.filter((m) => m !== id) : [...marked, id]);
</script>

<svelte:head><title>Bank · Bildung</title></svelte:head>

<div class="mb-3 flex flex-wrap items-start gap-2">
	<h1 class="mr-2 min-w-[300px] flex-1">{overview?.finding ?? ''}</h1>
	{#if staff.may('bank.write')}<a class="btn" href="/bank/writing">Drafts and reviews</a>{/if}
	<a class="btn" href="/bank/stimuli">Stimuli</a>
	<a class="btn" href="/bank/health">What it lacks</a>
	<a class="btn" href="/bank/frameworks">Frameworks</a>
	{#if staff.may('bank.keep')}<button class="btn" aria-expanded={panel === 'in'} onclick={() => toggle('in')}
			>Bring in</button
		>{/if}
	<button class="btn" aria-expanded={panel === 'out'} onclick={() => toggle('out')}>Take out</button>
	{#if staff.may('bank.write')}<button class="btn primary" aria-expanded={panel === 'new'} onclick={() => toggle('new')}
			>Write an item</button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if panel === 'in'}
	<div class="mb-3">
		<ImportPanel
			kind="bank"
			accept=".zip,.csv,.xlsx"
			hint="A sheet, CSV or XLSX (code, type, stem, option_A to option_J, key, points, standards; types choice, multiple, numeric and text) or a QTI package, 3.0, 2.2 or 2.1."
			sample={[
				{ href: '/samples/items.csv', text: 'twelve items as CSV' },
				{ href: '/samples/items-qti.zip', text: 'one of every kind as a QTI package' }
			]}
			onapplied={load}
		/>
	</div>
{:else if panel === 'out'}<div class="mb-3"><ExportPanel find={line} total={found?.total ?? 0} /></div>
{:else if panel === 'new'}<div class="mb-3">
		<NewItem
			subject={valueOf(line, 'subject')}
			grade={valueOf(line, 'grade')}
			standard={valueOf(line, 'standard')}
			subjects={overview?.subjects ?? []}
		/>
	</div>
{:else if panel === 'tags' && fields}<div class="mb-3">
		<TagPanel {fields} find={line} items={marked} total={found?.total ?? 0} ondone={load} />
	</div>{/if}
{#if overview && (overview.standards.length || found?.total)}
	<div class="grid grid-cols-[188px_minmax(0,1fr)_minmax(0,300px)] items-start gap-3">
		<section {@attach scrollable} class="sheet frozen max-h-[calc(100vh-130px)]" aria-label="Standards">
			<StandardTree
				standards={overview.standards}
				chosen={valueOf(line, 'standard')}
				onchoose={(code) => narrow('standard', code)}
			/>
		</section>
		<section class="sheet min-w-0">
			<div class="border-b border-hair p-2">
				<div class="flex gap-2">
					<input
						class="input !mt-0 flex-1"
						class:!border-vermilion={wrong}
						data-find
						type="search"
						placeholder="boat grade:6 p&lt;40%"
						aria-label="Find items"
						aria-invalid={wrong ? 'true' : undefined}
						value={typed}
						oninput={(e) => look(e.currentTarget.value)}
					/>
					<button class="btn" aria-expanded={panel === 'narrow'} onclick={() => toggle('narrow')}
						>Narrow{narrowed ? ` (${narrowed})` : ''}</button
					>
					<select
						class="input !mt-0 !w-[150px]"
						aria-label="Order by"
						value={order}
						onchange={(e) => go({ order: e.currentTarget.value === 'code' ? '' : e.currentTarget.value })}
					>
						{#each fields?.orders ?? [] as o (o.name)}<option value={o.name}>{o.value}</option>{/each}
					</select>
				</div>
				{#if wrong}<p class="mt-1 text-[13px] text-vermilion" role="alert">{wrong}</p>{/if}
				{#if panel === 'narrow' && fields}<Narrow
						{fields}
						subjects={overview.subjects}
						grades={overview.grades}
						line={typed}
						onnarrow={narrow}
					/>{/if}
			</div>
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-240px)]">
				<table class="table-fixed">
					<thead
						><tr
							><th class="w-[30px]"><span class="sr-only">Mark</span></th><th class="w-[76px]">Code</th><th>Text</th><th
								class="w-[86px]">Standard</th
							><th class="w-[64px]">Last sat</th><th class="n w-[66px]">Got it</th><th class="n w-[70px]">Separates</th
							></tr
						></thead
					>
					<tbody>
						{#each found?.items ?? [] as f (f.item.code)}
							{@const use = f.uses[0]}
							<tr
								tabindex="-1"
								data-row
								class:chosen={f.item.code === chosen?.item.code}
								onclick={() => go({ item: f.item.code }, false)}
								ondblclick={() => goto(`/bank/items/${f.item.item_id}`)}
							>
								<td class="!px-1"
									><label class="flex size-7 items-center justify-center"
										><span class="sr-only">Mark {f.item.code}</span><input
											class="accent-petrol"
											type="checkbox"
											checked={marked.includes(f.item.item_id)}
											onclick={(e) => e.stopPropagation()}
											onchange={() => mark(f.item.item_id)}
										/></label
									></td
								>
								<td class="truncate"><code>{f.item.code}</code></td>
								<td class="truncate"
									>{#if f.item.kind !== 'choice'}<span class="mr-1.5 rounded bg-wash px-1 text-[11.5px] text-ink2"
											>{kinds.get(f.item.kind) ?? f.item.kind}</span
										>{/if}{plain(f.item.shown.body)}</td
								>
								<td><StandardCode code={f.item.standards[0] ?? ''} /></td>
								<td class="whitespace-nowrap"
									>{use
										? monthOf(use.at)
										: f.item.state === 'in_use' || f.item.state === 'ready'
											? 'never'
											: f.item.state.replace('_', ' ')}</td
								>
								<td class="n whitespace-nowrap"
									>{#if use}<span
											class="mr-1 inline-block size-2.5 rounded-full border border-ink2 align-middle"
											style:background={reliefColor(use.p)}
										></span>{percent(use.p)}{/if}</td
								>
								<td class="n"
									>{#if use?.flags.some((g) => g.weight === 'problem')}<span class="notch">{short(use.r_rest)}</span
										>{:else if use}{short(use.r_rest)}{/if}</td
								>
							</tr>
						{:else}
							<tr
								><td colspan="7" class="!py-5 text-ink2"
									>{found ? 'No item fits. Take a word or a field out of the line.' : ''}</td
								></tr
							>
						{/each}
					</tbody>
				</table>
			</div>
			<div class="flex items-center gap-3 border-t border-hair p-2">
				<p class="small flex-1" role="status">
					{found
						? found.total > found.items.length
							? `The first ${found.items.length} of ${found.total}.`
							: `${found.total} ${found.total === 1 ? 'item' : 'items'}.`
						: ''}{marked.length ? ` ${marked.length} marked.` : ''}
				</p>
				{#if found && found.total > found.items.length && found.items.length < 500}<button
						class="btn"
						onclick={() => ((shown = Math.min(500, shown + 120)), void search())}>Show more</button
					>{/if}
				{#if staff.may('bank.write') && found?.total}
					{#if marked.length}<button class="btn quiet" onclick={() => (marked = [])}>Unmark</button>{/if}
					<button class="btn" aria-expanded={panel === 'tags'} onclick={() => toggle('tags')}
						>Tag {marked.length ? `the ${marked.length} marked` : `all ${found.total}`}</button
					>
				{/if}
			</div>
		</section>
		{#if chosen}
			{@const item = chosen.item}
			<section
				class="sheet max-h-[calc(100vh-130px)] overflow-auto p-4"
				aria-label="The chosen item"
				{@attach scrollable}
			>
				<div class="mb-2 flex items-start gap-2">
					<div class="small flex-1">
						<code>{item.code}</code> · version {item.number} · {item.points}
						{item.points === 1 ? 'point' : 'points'} · {kinds.get(item.kind) ?? item.kind}
					</div>
					<a class="btn !min-h-[26px]" href="/bank/items/{item.item_id}">Open</a>
				</div>
				<ItemCard {item} />
				<p class="small mt-3">
					{item.state.replace('_', ' ')}{chosen.draft
						? `; a next version is ${chosen.draft === 'in_review' ? 'in review' : 'being written'}`
						: ''}{chosen.comments
						? `; ${chosen.comments} open ${chosen.comments === 1 ? 'comment' : 'comments'}`
						: ''}{chosen.this_year
						? `; sat ${chosen.this_year === 1 ? 'once' : `${chosen.this_year} times`} this year`
						: ''}
				</p>
				<p class="small">
					{[
						item.tags.depth && `depth ${item.tags.depth}`,
						item.tags.topic,
						item.tags.unit,
						item.tags.seconds && `${item.tags.seconds} s`,
						item.tags.calculator && `calculator: ${item.tags.calculator}`,
						...item.tags.labels
					]
						.filter(Boolean)
						.join(' · ')}
				</p>
				<ItemHistory uses={chosen.uses} version={item.number} />
				<div class="mt-3 border-t border-hair pt-2">
					{#each item.standards as code, at (code)}
						<p class="small"><code>{code}</code> {texts.get(code) || 'no text yet'}{at ? ' (also touches)' : ''}</p>
					{/each}
				</div>
			</section>
		{/if}
	</div>
{/if}
