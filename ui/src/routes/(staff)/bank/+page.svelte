<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import ItemHistory from '$lib/parts/ItemHistory.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import StandardTree from '$lib/parts/StandardTree.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { plain } from '$lib/words/plain';
	import { percent, reliefColor, short } from '$lib/words/show';
	import ExportPanel from './ExportPanel.svelte';
	import { valueOf } from './line';
	import Narrow from './Narrow.svelte';
	import NewItem from './NewItem.svelte';
	import TagPanel from './TagPanel.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="mb-3 flex flex-wrap items-start gap-2">
	<Finding of="Bank" class="mr-2 min-w-[300px] flex-1">{shown.overview?.finding ?? ''}</Finding>
	{#if staff.may('bank.write')}<Button href="/bank/writing">Drafts and reviews</Button>{/if}
	<Button href="/bank/stimuli">Stimuli</Button>
	<Button href="/bank/health">Gaps</Button>
	<Button href="/bank/frameworks">Frameworks</Button>
	{#if staff.may('bank.keep')}<Button aria-expanded={shown.panel === 'in'} onclick={() => shown.toggle('in')}
			>Import</Button
		>{/if}
	<Button aria-expanded={shown.panel === 'out'} onclick={() => shown.toggle('out')}>Export</Button>
	{#if staff.may('bank.write')}<Button
			kind="primary"
			aria-expanded={shown.panel === 'new'}
			onclick={() => shown.toggle('new')}>New item</Button
		>{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.panel === 'in'}
	<div class="mb-3">
		<ImportPanel
			kind="bank"
			accept=".zip,.csv,.xlsx"
			hint="A sheet, CSV or XLSX (code, type, stem, option_A to option_J, key, points, standards; types choice, multiple, numeric and text) or a QTI package, 3.0, 2.2 or 2.1."
			sample={[
				{ href: '/samples/items.csv', text: 'twelve items as CSV' },
				{ href: '/samples/items-qti.zip', text: 'one of every kind as a QTI package' }
			]}
			onapplied={shown.load}
		/>
	</div>
{:else if shown.panel === 'out'}<div class="mb-3">
		<ExportPanel find={shown.line} total={shown.found?.total ?? 0} />
	</div>
{:else if shown.panel === 'new'}<div class="mb-3">
		<NewItem
			subject={valueOf(shown.line, 'subject')}
			grade={valueOf(shown.line, 'grade')}
			standard={valueOf(shown.line, 'standard')}
			subjects={shown.overview?.subjects ?? []}
		/>
	</div>
{:else if shown.panel === 'tags' && shown.fields}<div class="mb-3">
		<TagPanel
			fields={shown.fields}
			find={shown.line}
			items={shown.marked}
			total={shown.found?.total ?? 0}
			ondone={shown.load}
		/>
	</div>{/if}
{#if shown.overview && (shown.overview.standards.length || shown.found?.total)}
	<div class="grid grid-cols-[188px_minmax(0,1fr)_minmax(0,300px)] items-start gap-3">
		<section {@attach scrollable} class="sheet frozen max-h-[calc(100vh-130px)]" aria-label="Standards">
			<StandardTree
				standards={shown.overview.standards}
				chosen={valueOf(shown.line, 'standard')}
				onchoose={(code) => shown.narrow('standard', code)}
			/>
		</section>
		<Panel class="min-w-0">
			<div class="border-b border-hair p-2">
				<div class="flex gap-2">
					<input
						class="input mt-0 flex-1"
						class:!border-vermilion={shown.wrong}
						data-find
						type="search"
						placeholder="boat grade:6 p&lt;40%"
						aria-label="Find items"
						aria-invalid={shown.wrong ? 'true' : undefined}
						value={shown.typed}
						oninput={(e) => shown.look(e.currentTarget.value)}
					/>
					<Button aria-expanded={shown.panel === 'narrow'} onclick={() => shown.toggle('narrow')}
						>Filter{shown.narrowed ? ` (${shown.narrowed})` : ''}</Button
					>
					<Select
						label="Order by"
						choices={(shown.fields?.orders ?? []).map((o) => ({ value: o.name, label: String(o.value) }))}
						value={shown.order}
						onchange={(to) => shown.go({ order: to === 'code' ? '' : to })}
						class="mt-0 w-[150px]"
					/>
				</div>
				{#if shown.wrong}<p class="mt-1 text-[13px] text-vermilion" role="alert">{shown.wrong}</p>{/if}
				{#if shown.panel === 'narrow' && shown.fields}<Narrow
						fields={shown.fields}
						subjects={shown.overview.subjects}
						grades={shown.overview.grades}
						line={shown.typed}
						onnarrow={shown.narrow}
					/>{/if}
			</div>
			<Table within="max-h-[calc(100vh-240px)]" class="table-fixed">
				<thead
					><tr
						><th class="w-[30px]"><span class="sr-only">Select</span></th><th class="w-[76px]">Code</th><th>Text</th><th
							class="w-[86px]">Standard</th
						><th class="w-[92px] max-[1100px]:hidden">Last used</th><th class="n w-[66px]">Correct</th><th
							class="n w-[70px]">r (rest)</th
						></tr
					></thead
				>
				<tbody>
					{#each shown.found?.items ?? [] as f (f.item.code)}
						{@const use = f.uses[0]}
						<tr
							tabindex="-1"
							data-row
							class:chosen={f.item.code === shown.chosen?.item.code}
							onclick={() => shown.go({ item: f.item.code }, false)}
							ondblclick={() => goto(`/bank/items/${f.item.item_id}`)}
						>
							<td class="px-1"
								><Checkbox
									label="Select {f.item.code}"
									checked={shown.marked.includes(f.item.item_id)}
									onchange={() => shown.mark(f.item.item_id)}
								/></td
							>
							<td class="truncate"><code>{f.item.code}</code></td>
							<td class="truncate"
								>{#if f.item.kind !== 'choice'}<span class="mr-1.5 rounded bg-wash px-1 text-[11.5px] text-ink2"
										>{shown.kinds.get(f.item.kind) ?? f.item.kind}</span
									>{/if}{plain(f.item.shown.body)}</td
							>
							<td><StandardCode code={f.item.standards[0] ?? ''} /></td>
							<td class="whitespace-nowrap max-[1100px]:hidden"
								>{use
									? shown.monthOf(use.at)
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
							><td colspan="7" class="py-5 text-ink2"
								>{shown.found ? 'No item fits. Take a word or a field out of the line.' : ''}</td
							></tr
						>
					{/each}
				</tbody>
			</Table>
			<div class="flex items-center gap-3 border-t border-hair p-2">
				<p class="small flex-1" role="status">
					{shown.found
						? shown.found.total > shown.found.items.length
							? `The first ${shown.found.items.length} of ${shown.found.total}.`
							: `${shown.found.total} ${shown.found.total === 1 ? 'item' : 'items'}.`
						: ''}{shown.marked.length ? ` ${shown.marked.length} marked.` : ''}
				</p>
				{#if shown.found && shown.found.total > shown.found.items.length && shown.found.items.length < 500}<Button
						onclick={() => ((shown.many = Math.min(500, shown.many + 120)), void shown.search())}>Show more</Button
					>{/if}
				{#if staff.may('bank.write') && shown.found?.total}
					{#if shown.marked.length}<Button kind="quiet" onclick={() => (shown.marked = [])}>Clear selection</Button
						>{/if}
					<Button aria-expanded={shown.panel === 'tags'} onclick={() => shown.toggle('tags')}
						>Tag {shown.marked.length ? `${shown.marked.length} selected` : `all ${shown.found.total}`}</Button
					>
				{/if}
			</div>
		</Panel>
		{#if shown.chosen}
			{@const item = shown.chosen.item}
			<section
				class="sheet max-h-[calc(100vh-130px)] overflow-auto p-4"
				aria-label="The chosen item"
				{@attach scrollable}
			>
				<div class="mb-2 flex items-start gap-2">
					<div class="small flex-1">
						<code>{item.code}</code> · version {item.number} · {item.points}
						{item.points === 1 ? 'point' : 'points'} · {shown.kinds.get(item.kind) ?? item.kind}
					</div>
					<Button class="min-h-[26px]" href="/bank/items/{item.item_id}">Open</Button>
				</div>
				<ItemCard {item} />
				<p class="small mt-3">
					{item.state.replace('_', ' ')}{shown.chosen.draft
						? `; next version ${shown.chosen.draft === 'in_review' ? 'in review' : 'in progress'}`
						: ''}{shown.chosen.comments
						? `; ${shown.chosen.comments} open ${shown.chosen.comments === 1 ? 'comment' : 'comments'}`
						: ''}{shown.chosen.this_year
						? `; used ${shown.chosen.this_year === 1 ? 'once' : `${shown.chosen.this_year} times`} this year`
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
				<ItemHistory uses={shown.chosen.uses} version={item.number} />
				<div class="mt-3 border-t border-hair pt-2">
					{#each item.standards as code, at (code)}
						<p class="small">
							<code>{code}</code>
							{shown.texts.get(code) || 'no text yet'}{at ? ' (additional)' : ''}
						</p>
					{/each}
				</div>
			</section>
		{/if}
	</div>
{/if}
