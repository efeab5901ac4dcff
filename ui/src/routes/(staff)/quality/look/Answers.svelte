<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import type { Schemas } from '$lib/api/client';
	import { percent, short } from '$lib/words/show';
	import { api, body } from '$lib/api/client';
	import Whose from '$lib/parts/Whose.svelte';
	import { address } from './address.svelte';
	import OptionCurves from './OptionCurves.svelte';
	import type { Item } from './view.svelte';

	/** How an item's answers run: curves from the weakest to the strongest with the table by fifths behind them. */
	let {
		item,
		curves,
		notes = {},
		onwho
	}: {
		item: Item;
		curves: Schemas['CurvesOut'] | null;
		notes?: Record<string, string>;
		onwho?: (answer: string) => void;
	} = $props();
	let width = $state(298);
	const behind = (answer: string) =>
		body(
			api.GET('/api/quality/whose', {
				params: { query: { ...address.scope, of: answer ? 'answer' : 'omitted', item: item.item, answer } }
			})
		);
	const answers = $derived(item.options.filter((o) => o.kind === 'answer'));
	const options = $derived(item.options.filter((o) => o.kind === 'option'));
</script>

<div bind:clientWidth={width}>
	{#if curves}<OptionCurves {curves} options={item.options} width={Math.max(280, Math.min(560, width))} />
	{:else}<p class="small my-2">Too few students for curves; 10 are needed, with different scores.</p>{/if}
</div>
{#snippet rows(some: Schemas['OptionRowOut'][], title: string)}
	<Table class="mt-1 [&_td]:!px-1.5 [&_th]:!px-1.5">
		<thead
			><tr
				><th class="pl-0">{title}</th><th class="n">n</th><th class="n">Share</th><th class="n">r (rest)</th><th
					class="n pr-0 whitespace-normal"
					title="share of the answer among the lowest and among the highest fifth of the students"
					>Lowest to highest fifth</th
				></tr
			></thead
		>
		<tbody>
			{#each some as o, at (o.option + at)}
				<tr>
					<td class="h-7 max-w-[150px] pl-0">
						{#if onwho && o.n}<button
								class="word min-h-[24px] max-w-full truncate align-bottom"
								title="who gave it"
								onclick={() => onwho?.(o.option)}
								>{#if o.option}<b class:underline={o.is_key}>{o.option}</b>{o.is_key
										? ' key'
										: ''}{:else}omitted{/if}</button
							>
						{:else if o.option}<b class:underline={o.is_key}>{o.option}</b>{o.is_key ? ' key' : ''}{:else}omitted{/if}
						{#if notes[o.option]}<span class="small block leading-tight whitespace-normal">{notes[o.option]}</span>{/if}
					</td>
					<td class="n h-7"
						>{#if o.n && o.kind !== 'option'}<Whose title={o.option || 'Omitted'} load={() => behind(o.option)}
								>{o.n}</Whose
							>{:else}{o.n}{/if}</td
					>
					<td class="n h-7">{percent(o.share)}</td>
					<td class="n h-7">{short(o.r_rest)}</td>
					<td class="n h-7 pr-0 whitespace-nowrap"
						>{percent(o.fifths[0] ?? null).replace(' %', '')} → {percent(o.fifths[4] ?? null)}</td
					>
				</tr>
			{/each}
		</tbody>
	</Table>
{/snippet}
{@render rows(answers, 'Answer')}
{#if options.length}{@render rows(options, 'Each option')}{/if}
<p class="small mt-2">
	Counted: {item.n}.
	{#if item.left_out.length}Excluded: {item.left_out.map((l) => `${l.value} ${l.name}`).join(', ')}.{:else}No one was
		excluded.{/if}
</p>
