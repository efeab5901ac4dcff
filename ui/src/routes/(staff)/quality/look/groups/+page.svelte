<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import ItemLabel from '$lib/parts/ItemLabel.svelte';
	import { api, body, type Schemas } from '$lib/api/client';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { decimal, short, points } from '$lib/words/show';
	import FigureText from '../FigureText.svelte';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';
	import GroupCompare from './GroupCompare.svelte';
	import Matched from './Matched.svelte';

	/** Whether items work alike for two groups among students of equal score; and the mean scores of all groups. */
	const by = $derived(address.get('by') ?? '');
	let attributes = $state<string[]>([]);
	const levels = $derived({ reference: address.get('reference') ?? '', focal: address.get('focal') ?? '' });
	const asked = new Asked(
		// the comparison of means below says by which attribute, where the address does not
		() =>
			by
				? body(api.GET('/api/quality/functioning', { params: { query: { ...address.scope, by, ...levels } } }))
				: Promise.resolve(null),
		() => `${by} ${levels.reference} ${levels.focal}`
	);
	const data = $derived(asked.data);
	let chosen = $state('');
	const item = $derived(data?.items.find((i) => i.item === chosen) ?? data?.items[0] ?? null);
	const say = (m: Schemas['Matched']) =>
		m.std_p_difference === null ? (m.smd === null ? '–' : decimal(m.smd, 2)) : points(m.std_p_difference);
</script>

<Finding of="Groups" station="Item quality" class="mb-2 max-w-[900px]"
	>{data?.finding ?? (asked.problem || (asked.busy || !attributes.length ? '' : 'Choose what to compare.'))}</Finding
>
{#if data}
	<div class="small mb-2 flex flex-wrap items-center gap-3">
		<label class="flex items-center gap-1.5"
			>Reference <Select
				value={data.reference}
				choices={data.levels.map((l) => ({ value: l.name, label: `${l.name} (${l.n})` }))}
				onchange={(to) =>
					address.set({
						reference: to,
						focal: to === data.focal ? data.reference : data.focal
					})}
				small
				class="w-auto"
			/></label
		>
		<label class="flex items-center gap-1.5"
			>against <Select
				value={data.focal}
				choices={data.levels.map((l) => ({ value: l.name, label: `${l.name} (${l.n})` }))}
				onchange={(to) =>
					address.set({
						focal: to,
						reference: to === data.reference ? data.focal : data.reference
					})}
				small
				class="w-auto"
			/></label
		>
		<span>Groups under 50 are not offered; sizes A, B, C are stated from 200 in each.</span>
	</div>
	<div class="mb-3 flex items-start gap-3">
		<Panel label="Items, matched groups" class="min-w-0 flex-1">
			<Table within="max-h-[460px]">
				<thead
					><tr
						><th class="n">Item</th><th>Standard</th><th
							class="n"
							title="among students of equal score, the second group less the first">Difference</th
						><th class="n">D</th><th class="n">p value</th><th>Size</th><th>Among students of like score</th></tr
					></thead
				>
				<tbody>
					{#each data.items as i (i.item)}
						<tr tabindex="-1" data-row class:chosen={item?.item === i.item} onclick={() => (chosen = i.item)}>
							<td class="n"><ItemLabel code={i.item} number={i.number} text={i.text} /></td>
							<td><StandardCode code={i.standards[0] ?? ''} /></td>
							<td class="n whitespace-nowrap">{say(i.matched)}</td>
							<td class="n whitespace-nowrap">{decimal(i.matched.d_dif, 2)}</td>
							<td class="n">{short(i.matched.p_value, 3)}</td>
							<td>{i.size ?? ''}</td>
							<td class="max-w-[360px] whitespace-normal {i.says ? 'font-semibold' : 'text-ink2'}"
								>{i.says || (i.matched.why ?? 'no difference beyond chance')}</td
							>
						</tr>
					{/each}
				</tbody>
			</Table>
		</Panel>
		{#if item}
			<aside class="sheet w-[340px] flex-none p-4 text-[13.5px]" aria-label="Matched groups">
				<h2 class="mb-1">Item {item.number}</h2>
				<Matched stretches={item.picture} reference={data.reference} focal={data.focal} />
				<div class="mt-2 border-t border-hair pt-2">
					{#key item.item}<FigureText
							figure="differential"
							result={say(item.matched)}
							numbers={[
								['matched odds ratio', decimal(item.matched.odds_ratio, 2)],
								['D', `${decimal(item.matched.d_dif, 2)} ± ${decimal(item.matched.d_dif_se, 2)}`],
								['chi-square, p', `${decimal(item.matched.chi2, 2)}, ${short(item.matched.p_value, 4)}`],
								['scores used, dropped', `${item.matched.strata_used}, ${item.matched.strata_dropped}`]
							]}
							counted="{data.n_reference} {data.reference}, {data.n_focal} {data.focal}; who has no total or no known value is left out."
						/>{/key}
				</div>
				<Button class="mt-1" href={address.href('/quality/look/item', { item: item.item })}>Open the item</Button>
			</aside>
		{/if}
	</div>
{/if}
<h2 class="mb-1">Mean scores</h2>
<GroupCompare
	{by}
	onby={(name, all) => {
		attributes = all;
		if (name !== by && all.length) void address.set({ by: name, reference: null, focal: null });
	}}
/>
