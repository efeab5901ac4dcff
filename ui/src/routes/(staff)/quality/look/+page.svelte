<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { api, body } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import Finding from './Finding.svelte';
	import FigurePanel from './FigurePanel.svelte';
	import Histogram from './Histogram.svelte';
	import ItemMap from './ItemMap.svelte';
	import ItemPanel from './ItemPanel.svelte';
	import ItemTable from './ItemTable.svelte';
	import Limits from './Limits.svelte';
	import { address } from './address.svelte';
	import { Asked } from './asked.svelte';
	import { view } from './view.svelte';

	/** Where a test is judged: finding, distribution, item map, item table, workings. */
	const asked = new Asked((job) =>
		body(api.GET('/api/quality/overview', { params: { query: { ...address.scope, job } } }))
	);
	let limits = $state(false);
	const data = $derived(asked.data);
	const figure = $derived(address.get('figure'));
	/** The chosen item: the one in the address, else (unless a figure is open) the first that wants a look. */
	const item = $derived.by(() => {
		const code = address.get('item');
		if (code) return data?.items.find((i) => i.item === code) ?? null;
		return figure || !data ? null : (view.sorted(data.items)[0] ?? null);
	});
</script>

<Notice text={asked.problem} />
{#if !data}<p class="small" role="status">{asked.progress || (asked.busy ? 'Reading answers …' : '')}</p>{/if}
{#if data}
	<div class="beside flex items-start">
		<div class="min-w-0 flex-1 pr-4">
			<Finding pieces={data.finding} title={data.forms[0]?.name ?? 'Item quality'} />
			{#if data.test.n > 0 || data.items.some((i) => i.n)}
				<div class="mb-3 grid grid-cols-[minmax(230px,300px)_minmax(0,1fr)] gap-3">
					<Histogram test={data.test} onfigure={(name) => address.set({ figure: name, item: null })} />
					<ItemMap
						items={data.items}
						line={data.watch_line}
						chosen={item?.item ?? null}
						onchoose={(code) => address.set({ item: code, figure: null })}
					/>
				</div>
				{#if limits}<Limits limits={data.limits} onleave={() => (limits = false)} />{/if}
				<ItemTable
					{data}
					chosen={item?.item ?? null}
					onlimits={() => (limits = !limits)}
					changed={data.limits.some((l) => l.value !== l.usual)}
				/>
			{/if}
		</div>
		<aside
			{@attach scrollable}
			class="sticky top-0 -mt-3 -mr-5 -mb-4 h-screen w-[330px] flex-none overflow-y-auto border-l border-hair bg-sheet p-4 text-[13.5px]"
			aria-label="How this was calculated"
		>
			{#if item}{#key item.item}<ItemPanel {item} names={data.may_see_names} />{/key}
			{:else if figure}<FigurePanel {figure} histogram={data.test.histogram} />{/if}
		</aside>
	</div>
{/if}
