<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import ItemLabel from '$lib/parts/ItemLabel.svelte';
	import { api, body, type Schemas } from '$lib/api/client';
	import Whose from '$lib/parts/Whose.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';
	import { decimal, percent, reliefColor, short, points } from '$lib/words/show';
	import FigureText from '../FigureText.svelte';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';

	/** Classes, teachers, schools or windows side by side: the question or the teaching. */
	const by = $derived(address.get('by') ?? 'class');
	const of = $derived(address.get('of') ?? 'item');
	const asked = new Asked(
		(job) => body(api.GET('/api/quality/comparison', { params: { query: { ...address.scope, by, of, job } } })),
		() => `${by} ${of}`
	);
	const data = $derived(asked.data);
	let opened = $state<Schemas['CompareFinding'] | null>(null);
	let order = $state<'found' | 'place'>('found');
	let told = $state('');

	const KINDS = ['low_everywhere', 'low_in_one', 'not_taught', 'large_but_unproven', 'high_in_one'];
	const found = $derived(new Map(KINDS.map((k) => [k, (data?.findings ?? []).filter((f) => f.finding === k)])));
	const called = $derived(new Map((data?.findings ?? []).map((f) => [`${f.item}|${f.group ?? ''}`, f])));
	const lines = $derived.by(() => {
		if (!data) return [];
		const rank = new Map<string, number>();
		data.findings.forEach((f, at) => rank.has(f.item) || rank.set(f.item, at));
		return order === 'place'
			? data.lines
			: data.lines.toSorted((a, b) => (rank.get(a.name) ?? 999) - (rank.get(b.name) ?? 999));
	});
	const line = $derived(address.scope.line ?? 0.6);
	const mark = (item: string, group: string) => called.get(`${item}|${group}`);
	const SIGNS: Record<string, string> = { low_in_one: '▼', high_in_one: '▲', large_but_unproven: '?', not_taught: '○' };
	const wide = $derived((data?.groups.length ?? 0) > 9);

	async function share() {
		try {
			await navigator.clipboard.writeText(location.href);
			told = 'Link copied. Colleagues see the same page with the names they may see.';
		} catch {
			told = location.href;
		}
	}
	const title = (item: string) => {
		const l = data?.lines.find((x) => x.name === item);
		return l?.number ? `Item ${l.number}` : l?.text || item;
	};
	const behind = (group: string) =>
		body(
			api.GET('/api/quality/whose', { params: { query: { ...address.scope, of: 'group', item: by, answer: group } } })
		);
</script>

<Notice text={asked.problem} />
<div class="small mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
	<div class="flex gap-1" role="group" aria-label="Compare">
		{#each [['class', 'classes'], ['teacher', 'teachers'], ['school', 'schools'], ['window', 'windows']] as [value, word] (value)}<Button
				kind="quiet"
				class="min-h-[26px]"
				aria-pressed={by === value}
				onclick={() => ((opened = null), address.set({ by: value === 'class' ? null : (value ?? null) }))}
				>{word}</Button
			>{/each}
	</div>
	<div class="flex gap-1" role="group" aria-label="By">
		{#each [['item', 'by item'], ['standard', 'by standard']] as [value, word] (value)}<Button
				kind="quiet"
				class="min-h-[26px]"
				aria-pressed={of === value}
				onclick={() => ((opened = null), address.set({ of: value === 'item' ? null : (value ?? null) }))}>{word}</Button
			>{/each}
	</div>
	<span class="ml-auto flex items-center gap-2"
		><span role="status">{told}</span><Button kind="quiet" class="min-h-[26px]" onclick={share}>Share this page</Button
		></span
	>
</div>
{#if !data}<p class="small" role="status">{asked.progress || (asked.busy ? 'Comparing …' : '')}</p>
{:else}
	<Finding of="Compare" station="Item quality" class="mb-1 max-w-[900px]">{data.finding}</Finding>
	{#if data.note}<p class="small mb-3">{data.note}</p>{/if}
	<div
		class="mb-3 grid gap-3"
		style:grid-template-columns="repeat({KINDS.filter((k) => found.get(k)?.length).length || 1}, minmax(0, 1fr))"
	>
		{#each KINDS.filter((k) => found.get(k)?.length) as kind (kind)}
			<Panel label={data.says[kind]} class="p-3 text-[13px]">
				<h2 class="mb-1 text-[14px]">
					{data.says[kind]?.[0]?.toUpperCase()}{data.says[kind]?.slice(1)}
					<span class="small font-normal">{found.get(kind)?.length}</span>
				</h2>
				<div
					class="grid max-h-[164px] gap-x-6 overflow-y-auto {of === 'item'
						? 'grid-cols-[repeat(auto-fill,minmax(190px,1fr))]'
						: 'grid-cols-[repeat(auto-fill,minmax(360px,1fr))]'}"
					{@attach scrollable}
				>
					{#each found.get(kind) ?? [] as f (f.item + f.group)}
						<button
							class="flex min-h-[26px] w-full cursor-pointer items-center gap-2 rounded px-1 text-left hover:bg-wash {opened ===
							f
								? 'bg-wash'
								: ''}"
							onclick={() => (opened = f)}
							><b class="min-w-[56px] truncate font-semibold">{title(f.item)}</b>{#if f.group}<span
									class="flex-1 text-left whitespace-nowrap text-ink2">{f.group}</span
								>{/if}{#if f.difference !== null}<span class="n whitespace-nowrap"
									><abbr title="percentage points" class="no-underline">{points(f.difference)}</abbr></span
								>{:else}{@render strip(f.item)}{/if}</button
						>
					{/each}
				</div>
			</Panel>
		{:else}<p class="sheet p-3 text-[13.5px] text-ink2">No difference stands out.</p>{/each}
	</div>
	<div class="beside flex items-start gap-3">
		<Panel label="Compare" class="min-w-0 flex-1">
			<div class="small flex items-center gap-4 border-b border-hair px-3 py-1.5">
				<label class="flex items-center gap-1.5"
					>Order by <Select
						bind:value={order}
						choices={[
							{ value: 'found', label: 'most notable first' },
							{ value: 'place', label: `${of === 'item' ? 'place on the form' : 'standard'}` }
						]}
						small
						class="w-auto"
					/></label
				><span class="ml-auto"
					>Each share with its 95% interval; ▼ low alone, ? large but may be chance, ○ not taught there yet</span
				>
			</div>
			<Table within="max-h-[620px]" class="[&_td]:!px-1.5 [&_th]:!px-1.5">
				<thead
					><tr
						><th class="sticky left-0 z-[2] bg-sheet">{of === 'item' ? 'Item' : 'Standard'}</th
						>{#each data.groups as g (g.name)}<th
								class="align-bottom whitespace-normal {g.mine ? 'font-bold text-ink' : ''}"
								title="{g.n} students, {percent(g.mean)} of the points"
								><span class="block max-w-[110px]">{g.name}</span><span class="small block font-normal"
									><Whose title={g.name} load={() => behind(g.name)}>{g.n}</Whose> · {percent(g.mean)}</span
								></th
							>{/each}</tr
					></thead
				>
				<tbody>
					{#each lines as l (l.name)}
						{@const everywhere = called.get(`${l.name}|`)}
						<tr>
							<td class="sticky left-0 z-[1] bg-sheet whitespace-nowrap"
								>{#if l.number}<ItemLabel
										code={l.name}
										number={l.number}
										text={l.text}
										href={address.href('/quality/look/item', { item: l.name })}
									/>
									<StandardCode code={l.standard} />{:else}<span
										class="block max-w-[210px] leading-tight whitespace-normal"
										>{l.text || l.name} <StandardCode code={l.name} /></span
									>{/if}{#if everywhere}<span
										class="ml-1 text-[12px] {everywhere.finding === 'low_everywhere' ? 'notch' : 'text-ink2'}"
										>{everywhere.finding === 'low_everywhere' ? 'low everywhere' : 'not taught yet'}</span
									>{/if}</td
							>
							{#each l.cells as c, at (at)}
								{@const g = data.groups[at]}
								{@const f = mark(l.name, g?.name ?? '')}
								<td class="py-0">
									{#if f}<button
											class="block w-full cursor-pointer rounded text-left hover:bg-wash"
											title={data.says[f.finding]}
											onclick={() => (opened = f)}>{@render bar(c, f, wide)}</button
										>{:else}{@render bar(c, null, wide)}{/if}
								</td>
							{/each}
						</tr>
					{/each}
				</tbody>
			</Table>
		</Panel>
		{#if opened}
			<aside class="sheet sticky top-2 w-[300px] flex-none p-3 text-[13.5px]" aria-label="How this was calculated">
				<div class="flex items-baseline gap-2">
					<h2 class="flex-1">{title(opened.item)}{opened.group ? `, ${opened.group}` : ''}</h2>
					<Button kind="quiet" class="min-h-[26px]" onclick={() => (opened = null)}>Close</Button>
				</div>
				<p class="my-1 font-semibold">{data.says[opened.finding]}.</p>
				{#if opened.group}
					{#key opened}<FigureText
							figure="matched"
							result={points(opened.difference)}
							numbers={[
								[
									'raw difference to all others',
									opened.ci95 ? `${short(opened.ci95[0] ?? null)} to ${short(opened.ci95[1] ?? null)}` : '–'
								],
								['matched odds ratio', decimal(opened.odds_ratio, 2)],
								['matched difference D', `${decimal(opened.d_dif, 2)} ± ${decimal(opened.d_dif_se, 2)}`],
								['p value', short(opened.p_value, 4)],
								['adjusted for all comparisons', short(opened.p_adjusted, 4)]
							]}
						/>{/key}
				{:else}{#key opened}<FigureText
							figure="findings"
							result={data.says[opened.finding] ?? ''}
							numbers={[['watch line', percent(line)]]}
						/>{/key}{/if}
				{#if of === 'item'}<Button class="mt-1" href={address.href('/quality/look/item', { item: opened.item })}
						>Open the item</Button
					>{/if}
			</aside>
		{/if}
	</div>
	{#if by === 'teacher' && !staff.me?.roles.includes('coordinator')}<p class="small mt-2">
			Colleagues are numbered unless they agreed to show you their classes.
		</p>{/if}
{/if}

{#snippet strip(name: string)}
	<svg width="92" height="14" class="self-center" aria-hidden="true"
		><path d="M4 7H88" stroke="var(--color-hair)" /><path
			d="M{4 + line * 84} 1V13"
			stroke="var(--color-ink2)"
			stroke-dasharray="2 2"
			stroke-width=".8"
		/>{#each data?.lines.find((l) => l.name === name)?.cells ?? [] as c, at (at)}{#if c.p !== null}<circle
					cx={4 + c.p * 84}
					cy="7"
					r="2.6"
					fill={reliefColor(c.p)}
					stroke="var(--color-relief1)"
					stroke-width=".7"
				/>{/if}{/each}</svg
	>
{/snippet}

{#snippet bar(c: Schemas['GroupItem'], f: Schemas['CompareFinding'] | null, narrow: boolean)}
	{@const w = narrow ? 54 : 84}
	<span class="flex items-center gap-1 whitespace-nowrap">
		<svg width={w} height="22" aria-hidden="true" class="block"
			><path d="M0 11H{w}" stroke="var(--color-hair)" /><path
				d="M{line * w} 3V19"
				stroke="var(--color-ink2)"
				stroke-dasharray="2 2"
				stroke-width=".8"
			/>{#if c.p !== null}{#if c.ci95}<path
						d="M{(c.ci95[0] ?? 0) * w} 11H{(c.ci95[1] ?? 0) * w}"
						stroke="var(--color-relief1)"
						stroke-width="1.4"
					/>{/if}<circle
					cx={Math.max(4, Math.min(w - 4, c.p * w))}
					cy="11"
					r={f ? 5 : 3.6}
					fill={reliefColor(c.p)}
					stroke={f ? 'var(--color-ink)' : 'var(--color-relief1)'}
					stroke-width={f ? 1.6 : 1}
				/>{/if}</svg
		>
		<span class="n w-[38px] text-right {f ? 'font-semibold' : ''}">{percent(c.p)}</span><span
			class="w-3 text-[11px] {f?.finding === 'low_in_one' ? 'text-vermilion' : 'text-ink2'}"
			>{f ? SIGNS[f.finding] : ''}</span
		>
	</span>
{/snippet}
