<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import ItemLabel from '$lib/parts/ItemLabel.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import OptionRibbon from '$lib/parts/OptionRibbon.svelte';
	import { flagWords, percent, short } from '$lib/words/show';
	import { goto } from '$app/navigation';
	import { address } from './address.svelte';
	import Interval from './Interval.svelte';
	import { view, type Item, type Order } from './view.svelte';

	/** Every item in one line: share correct with its interval, r (rest), the ribbon of answers, why it is to be reviewed. */
	let {
		data,
		chosen,
		onlimits,
		changed
	}: { data: Schemas['QualityOut']; chosen: string | null; onlimits: () => void; changed: boolean } = $props();
	const looks = $derived(data.items.filter((i) => i.sound === false).length);
	const items = $derived(view.sorted(data.items));
	let groups = $state<Schemas['SubScoresOut'] | null>(null);
	let problem = $state('');
	const texts = $derived(address.get('texts') === 'on');
	/** Where there is no room for all, the ribbon gives way: it stands beside the item anyway. */
	const ribbon = $derived(texts ? 'hidden @min-[1000px]:table-cell' : 'hidden @min-[680px]:table-cell');
	let asked = 0;
	/** What can be seen is painted first, the rest right after it. */
	let painted = $state(20);
	$effect(() => {
		const frame = requestAnimationFrame(() => setTimeout(() => (painted = Infinity)));
		return () => cancelAnimationFrame(frame);
	});

	const HEADS = $derived<[Order | null, string, string][]>([
		['place', 'Item', 'n'],
		...(texts ? ([[null, 'Item text', '']] as [null, string, string][]) : []),
		['standard', 'Standard', ''],
		['p', 'Correct', 'n'],
		[null, '', ''],
		...data.levels.map((l): [null, string, string] => [null, l.name, 'n']),
		['r', 'r (rest)', 'n'],
		[null, 'Answers', ribbon],
		['look', 'Reason for review', '']
	]);
	const place = $derived(new Map(data.items.map((i, at) => [i.item, at])));
	const around = (name: string) => data.levels.find((l) => l.name === name);

	$effect(() => {
		const by = view.group;
		void data;
		const mine = ++asked;
		if (!by) return void (groups = null);
		body(api.GET('/api/quality/subscores', { params: { query: { ...address.scope, by } } }))
			.then((answer) => {
				if (mine === asked) [groups, problem] = [answer, ''];
			})
			.catch((error) => (problem = said(error)));
	});

	const sections = $derived<[Schemas['SubScore'] | null, Item[]][]>(
		groups && view.group
			? groups.groups
					.map((g) => [g, items.filter((i) => view.under(i) === g.name)] as [Schemas['SubScore'], Item[]])
					.filter(([, some]) => some.length)
			: [[null, items]]
	);
	const reason = (item: Item) => item.flags.filter((f) => f.weight !== 'note');
	const notes = (item: Item) => item.flags.filter((f) => f.weight === 'note');
	const words = (flag: Item['flags'][number]) =>
		flag.option ? `${flagWords(flag.flag)} (${flag.option})` : flagWords(flag.flag);
	const distinct = (flags: Item['flags']) => [...new Set(flags.map((f) => flagWords(f.flag)))];

	/** A head orders; again, it turns the order round. */
	function order(by: Order) {
		if (view.order !== by) return address.set({ order: by === 'look' ? null : by, down: null });
		return address.set({ down: address.get('down') ? null : '1' });
	}
</script>

<Panel label="Items" class="@container">
	<div class="small flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-hair px-3 py-1.5">
		<label class="flex items-center gap-1.5"
			>Group by
			<Select
				value={view.group ?? ''}
				choices={[
					{ value: '', label: 'nothing' },
					{ value: 'standard', label: 'standard' },
					{ value: 'depth', label: 'depth' },
					{ value: 'kind', label: 'type' },
					{ value: 'part', label: 'part' }
				]}
				onchange={(to) => address.set({ by: to || null })}
				small
				class="w-auto"
			/>
		</label>
		<Checkbox checked={view.flaggedOnly} onchange={(on) => address.set({ only: on ? 'look' : null })}
			>{looks === 1 ? 'only the item to review' : `only the ${looks} items to review`}</Checkbox
		>
		<Checkbox checked={texts} onchange={(on) => address.set({ texts: on ? 'on' : null })}>show item text</Checkbox>
		<button class="word min-h-[24px] {changed ? 'font-semibold text-ink' : ''}" onclick={onlimits}
			>{changed ? 'Limits changed' : 'Limits'}</button
		>
		{#if data.judged_on !== null}<span
				>Flags are based on all {data.judged_on} students who took this test; the other figures are for this view.</span
			>{/if}
		<span class="ml-auto">Lines are 95% intervals; the dashed mark is the watch line</span>
	</div>
	{#if problem}<p class="border-l-4 border-vermilion px-3 py-1 text-[13px]">{problem}</p>{/if}
	{#if groups}<p class="border-b border-hair px-3 py-2 text-[13.5px]">{groups.finding}</p>{/if}
	<Table within="max-h-[560px]">
		<thead
			><tr
				>{#each HEADS as [by, name, kind], at (at)}<th
						class={kind}
						aria-sort={by && view.order === by ? (address.get('down') ? 'descending' : 'ascending') : undefined}
						>{#if by}<button
								class="word no-underline hover:!underline {view.order === by ? 'font-bold text-ink' : ''}"
								onclick={() => order(by)}>{name}{view.order === by ? (address.get('down') ? ' ↑' : ' ↓') : ''}</button
							>{:else}<span
								class="inline-block first-letter:uppercase"
								title={around(name)
									? `everyone in the ${name} who took this test: ${around(name)!.n} students`
									: undefined}>{name}</span
							>{/if}</th
					>{/each}</tr
			></thead
		>
		<tbody>
			{#each painted < items.length && !groups ? [[null, items.slice(0, painted)] as (typeof sections)[number]] : sections as [group, some] (group?.name ?? '')}
				{#if group}
					<tr
						><th colspan={HEADS.length} class="h-9 bg-paper text-left font-normal">
							<span class="flex flex-wrap items-center gap-x-4 text-[13px]">
								<b class="font-semibold text-ink"
									>{#if view.group === 'standard'}<StandardCode code={group.name} />{:else}{group.name}{/if}</b
								>
								<span class="text-ink">{percent(group.mean)}</span>
								<Interval p={group.mean} ci={group.ci95} line={data.watch_line} />
								<span class="small"
									>{some.length}
									{some.length === 1 ? 'item' : 'items'}, {group.points} points{group.alpha !== null
										? `; reliability ${short(group.alpha)}`
										: group.why.alpha
											? `; reliability not stated: ${group.why.alpha}`
											: ''}{group.says_more === null
										? ''
										: group.says_more
											? '; says more than the total'
											: '; the total says as much'}</span
								>
							</span>
						</th></tr
					>
				{/if}
				{#each some as item (item.item)}
					<tr
						tabindex="-1"
						data-row
						class:chosen={chosen === item.item}
						onclick={() => address.set({ item: item.item, figure: null })}
						ondblclick={() => goto(address.href('/quality/look/item', { item: item.item }))}
					>
						<td class="n font-semibold"><ItemLabel code={item.item} number={item.number} text={item.text} /></td>
						{#if texts}<td class="max-w-[230px] min-w-[150px] leading-tight whitespace-normal">{item.text}</td>{/if}
						<td class="whitespace-nowrap"><StandardCode code={item.standards[0] ?? ''} /></td>
						<td class="n whitespace-nowrap">{percent(item.p)}</td>
						<td><Interval p={item.p} ci={item.p_ci95} line={data.watch_line} /></td>
						{#each data.levels as level (level.name)}<td class="n whitespace-nowrap text-ink2"
								>{percent(level.p[place.get(item.item) ?? -1] ?? null)}</td
							>{/each}
						<td class="n" title={item.why.r_rest}>{short(item.r_rest)}</td>
						<td class={ribbon}
							><OptionRibbon
								options={item.options}
								notReached={item.n_not_reached}
								width={data.levels.length ? 96 : 140}
							/></td
						>
						<td class="min-w-[150px] leading-tight whitespace-normal">
							{#if item.flags.some((f) => f.weight === 'problem')}
								<span class="notch"
									>{reason(item)
										.filter((f) => f.weight === 'problem')
										.map(words)
										.join(', ')}</span
								>
							{:else if reason(item).length}<span class="font-semibold">{distinct(reason(item)).join(', ')}</span
								>{#if notes(item).length}<span class="text-ink2">; {distinct(notes(item)).join(', ')}</span>{/if}
							{:else if item.sound === null}<span class="text-ink2">not examined: too few students</span>
							{:else}<span class="text-ink2">{distinct(notes(item)).join(', ')}</span>{/if}
							{#if item.verdict}<span class="small ml-1 rounded bg-wash px-1.5">decided: {item.verdict}</span>{/if}
						</td>
					</tr>
				{/each}
			{/each}
			{#if !items.length}<tr><td colspan={HEADS.length} class="text-ink2">No items to review at these limits.</td></tr
				>{/if}
		</tbody>
	</Table>
</Panel>
