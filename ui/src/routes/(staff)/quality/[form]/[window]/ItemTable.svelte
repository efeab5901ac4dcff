<script lang="ts">
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import OptionRibbon from '$lib/parts/OptionRibbon.svelte';
	import { flagWords, percent, reliefColor, short } from '$lib/words/show';
	import { view, type Item, type Order } from './view.svelte';

	/** Every item in one line: got it with its interval, separates, the ribbon of answers, why it wants a look. */
	const WIDTH = 92;
	const line = $derived(view.data?.watch_line ?? 0.6);
	const looks = $derived(view.data?.items.filter((i) => i.sound === false).length ?? 0);
	const ORDERS: [Order, string][] = [
		['look', 'what wants a look first'],
		['place', 'place on the form'],
		['p', 'how many got it'],
		['r', 'how well it separates']
	];

	const reason = (item: Item) => item.flags.filter((f) => f.weight !== 'note');
	const notes = (item: Item) => item.flags.filter((f) => f.weight === 'note');
	const words = (flag: Item['flags'][number]) => (flag.option ? `${flagWords(flag.flag)} (${flag.option})` : flagWords(flag.flag));
	const distinct = (flags: Item['flags']) => [...new Set(flags.map((f) => flagWords(f.flag)))];
</script>

<section class="sheet" aria-label="Items">
	<div class="small flex flex-wrap items-center gap-x-4 border-b border-hair px-3 py-1.5">
		<label class="flex items-center gap-1.5">Order by
			<select class="rounded border border-[#8d9b98] bg-sheet px-1.5 py-0.5 text-ink" value={view.order} onchange={(e) => view.set({ order: e.currentTarget.value === 'look' ? null : e.currentTarget.value })}>
				{#each ORDERS as [value, text] (value)}<option {value}>{text}</option>{/each}
			</select>
		</label>
		<label class="flex items-center gap-1.5"><input type="checkbox" checked={view.flaggedOnly} onchange={(e) => view.set({ only: e.currentTarget.checked ? 'look' : null })} /> only the {looks} that want a look</label>
		<span class="ml-auto">Lines are 95 % intervals; the dashed mark is the watch line</span>
	</div>
	<div {@attach scrollable} class="frozen max-h-[560px]">
		<table>
			<thead><tr><th class="n">Item</th><th>Standard</th><th class="n">Got it</th><th></th><th class="n">Separates</th><th>Answers</th><th>Wants a look because</th></tr></thead>
			<tbody>
				{#each view.sorted as item (item.item)}
					<tr tabindex="-1" data-row class:chosen={view.item?.item === item.item} onclick={() => view.set({ item: item.item, figure: null })}>
						<td class="n font-semibold">{item.number}</td>
						<td class="whitespace-nowrap"><StandardCode code={item.standards[0] ?? ''} /></td>
						<td class="n whitespace-nowrap">{percent(item.p)}</td>
						<td>
							<svg width={WIDTH} height="16" aria-hidden="true" class="block">
								<path d="M0 8H{WIDTH}" stroke="var(--color-hair)" />
								<path d="M{line * WIDTH} 1V15" stroke="var(--color-ink2)" stroke-dasharray="2 2" />
								{#if item.p !== null}
									{#if item.p_ci95}<path d="M{(item.p_ci95[0] ?? 0) * WIDTH} 8H{(item.p_ci95[1] ?? 1) * WIDTH}" stroke="var(--color-relief1)" stroke-width="1.500" />{/if}
									<circle cx={4 + item.p * (WIDTH - 8)} cy="8" r="3.800" fill={reliefColor(item.p)} stroke="var(--color-relief1)" />
								{/if}
							</svg>
						</td>
						<td class="n" title={item.why.r_rest}>{short(item.r_rest)}</td>
						<td><OptionRibbon options={item.options} notReached={item.n_not_reached} width={140} /></td>
						<td class="leading-tight">
							{#if item.flags.some((f) => f.weight === 'problem')}
								<span class="notch">{reason(item).filter((f) => f.weight === 'problem').map(words).join(', ')}</span>
							{:else if reason(item).length}<span class="font-semibold">{distinct(reason(item)).join(', ')}</span>
							{:else if item.sound === null}<span class="text-ink2">not examined: too few students</span>
							{:else}<span class="text-ink2">{distinct(notes(item)).join(', ')}</span>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</div>
</section>
