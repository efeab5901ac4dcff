<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { page } from '$app/state';
	import { said } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import GroupCompare from './GroupCompare.svelte';
	import Histogram from './Histogram.svelte';
	import ItemMap from './ItemMap.svelte';
	import ItemPanel from './ItemPanel.svelte';
	import ItemTable from './ItemTable.svelte';
	import FigurePanel from './FigurePanel.svelte';
	import Scope from './Scope.svelte';
	import { view } from './view.svelte';

	/** Where a test is judged: finding, distribution, item map, item table, workings. */
	let problem = $state('');
	const scope = $derived(JSON.stringify([page.params, page.url.searchParams.getAll('sessions'), page.url.searchParams.get('line')]));

	$effect(() => {
		void scope;
		view.load().catch((error) => (problem = said(error)));
	});
</script>

<svelte:head><title>{view.data?.form ?? 'Item quality'} · Bildung</title></svelte:head>

<Notice text={problem} onclose={() => (problem = '')} />
{#if view.data}
	<div class="flex items-start">
		<div class="min-w-0 flex-1 pr-4">
			<Scope data={view.data} />
			<h1 class="mb-3 max-w-[860px]">
				{#each view.data.finding as piece, at (at)}
					{#if piece.item}<button class="word text-left {piece.urgent ? 'font-semibold text-vermilion' : ''}" onclick={() => view.set({ item: piece.item, figure: null })}>{piece.text}</button>
					{:else if piece.figure}<button class="word" onclick={() => view.set({ figure: piece.figure, item: null })}>{piece.text}</button>
					{:else}{piece.text}{/if}
				{/each}
			</h1>
			{#if view.data.test.n > 0}
				<div class="mb-3 grid grid-cols-[minmax(230px,300px)_minmax(0,1fr)] gap-3">
					<Histogram test={view.data.test} onfigure={(figure) => view.set({ figure, item: null })} />
					<ItemMap items={view.data.items} line={view.data.watch_line} chosen={view.item?.item ?? null} onchoose={(item) => view.set({ item, figure: null })} />
				</div>
				{#if page.url.searchParams.get('groups')}<GroupCompare />{/if}
				<ItemTable />
			{/if}
		</div>
		<aside {@attach scrollable} class="sticky top-0 -mt-4 -mr-5 -mb-4 h-screen w-[330px] flex-none overflow-y-auto border-l border-hair bg-sheet p-4 text-[13.5px]" aria-label="Workings">
			{#if view.item}<ItemPanel item={view.item} />
			{:else if view.figure}<FigurePanel figure={view.figure} />{/if}
		</aside>
	</div>
{/if}
