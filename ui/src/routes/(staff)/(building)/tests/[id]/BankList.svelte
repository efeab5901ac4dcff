<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import ItemCard from '$lib/parts/ItemCard.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { plain } from '$lib/words/plain';
	import { percent, short } from '$lib/words/show';
	import type { Schemas } from '$lib/api/client';
	import type { Drag } from './drag.svelte';
	import type { FormPage } from './form.svelte';

	/** The bank beside a draft: found by words and standard, added by a click or by dragging. */
	let { shown, drag }: { shown: FormPage; drag: Drag } = $props();
	let open = $state<string | null>(null);
	let unit = $state('');
	let earlier = $state(false);
	const inForm = $derived(shown.inForm);
	const fits = (s: Schemas['StandardLine']) => s.subject === shown.form?.subject && s.grade === shown.form?.grade;
	const ordered = $derived(
		shown.standards
			.filter((s) => s.items)
			.toSorted((a, b) => Number(fits(b)) - Number(fits(a)) || a.code.localeCompare(b.code))
	);
</script>

<Panel label="Bank" class="min-w-0">
	<div class="flex gap-2 border-b border-hair p-2">
		<input
			class="input mt-0"
			data-find
			type="search"
			placeholder="Find in the bank"
			aria-label="Find in the bank"
			bind:value={shown.find}
			oninput={() => shown.search()}
		/>
		<Select
			label="Standard"
			choices={[
				{ value: '', label: 'all standards' },
				...ordered.map((s) => ({ value: s.code, label: `${s.code} ${s.text} (${s.items})` }))
			]}
			bind:value={shown.standard}
			onchange={() => shown.search()}
			class="mt-0 w-44"
		/>
	</div>
	{#if shown.units.length}
		<details class="border-b border-hair px-2 py-1 text-[13px]">
			<summary class="min-h-[26px] cursor-pointer leading-[26px] text-ink2">Add from course units</summary>
			<div class="flex items-center gap-2 pb-1">
				<Select
					label="Unit"
					choices={[
						{ value: '', label: 'choose a unit' },
						...shown.units.map((u) => ({ value: u.name, label: `${u.name} (${u.items})` }))
					]}
					bind:value={unit}
					class="mt-0 min-w-0 flex-1"
				/>
				<Checkbox bind:checked={earlier} class="whitespace-nowrap">include earlier units</Checkbox>
				<Button class="min-h-[30px]" disabled={!unit} onclick={() => shown.fill(unit, earlier)}>Add all</Button>
			</div>
		</details>
	{/if}
	<Table within="max-h-[calc(100vh-250px)]" class="table-fixed">
		<thead>
			<tr>
				<th>In the bank</th><th class="w-[104px]">Standard</th><th class="n w-[84px]">Correct</th>
				<th class="w-[72px]"></th>
			</tr>
		</thead>
		<tbody>
			{#each shown.bank?.items ?? [] as { item, uses } (item.version_id)}
				<tr
					tabindex="-1"
					data-row
					data-bank={item.code}
					draggable={!inForm.has(item.version_id)}
					ondragstart={() => (drag.carried = item)}
					ondragend={() => drag.end()}
					onclick={() => (open = open === item.version_id ? null : item.version_id)}
				>
					<td class="truncate"><code class="mr-1 text-ink2">{item.code}</code> {plain(item.shown.body)}</td>
					<td><StandardCode code={item.standards[0] ?? ''} /></td>
					<td
						class="n {uses[0] ? '' : 'text-ink2'}"
						title={uses[0]
							? `${uses[0].form}, ${uses[0].window}; discrimination ${short(uses[0].r_rest)}`
							: 'not taken yet'}>{uses[0] ? percent(uses[0].p) : 'not taken yet'}</td
					>
					<td class="n">
						{#if inForm.has(item.version_id)}<span class="small">added</span>
						{:else}
							<Button
								class="min-h-[26px]"
								aria-label="Add {item.code}"
								onclick={(e) => (e.stopPropagation(), shown.add(item))}>Add</Button
							>
						{/if}
					</td>
				</tr>
				{#if open === item.version_id}
					<tr><td colspan="4" class="bg-paper p-4"><ItemCard {item} /></td></tr>
				{/if}
			{:else}<tr><td colspan="4" class="text-ink2">No items match. Import items in the Bank.</td></tr>{/each}
		</tbody>
	</Table>
</Panel>
