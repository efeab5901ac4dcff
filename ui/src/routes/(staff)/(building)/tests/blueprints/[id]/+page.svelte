<script lang="ts">
	import { kindOfTest } from '$lib/words/kinds';
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Assemble from './Assemble.svelte';
	import type { PageProps } from './$types';
	import type { Plan } from './blueprint.svelte';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

{#if shown.blueprint && shown.plan}
	<div class="small mb-1">
		<a class="word" href="/tests">Tests</a> · blueprint{shown.blueprint.subject
			? ` · ${shown.blueprint.subject}`
			: ''}{shown.blueprint.grade ? `, grade ${shown.blueprint.grade}` : ''}
	</div>
	<div class="mb-3 flex items-start gap-4">
		<Finding of="Blueprint" title={shown.blueprint?.name} class="flex-1">{shown.blueprint.finding}</Finding>
		<span class="small mt-1.5" role="status">{shown.saving}</span>
		{#if shown.may}<Button
				kind="primary"
				aria-expanded={shown.building}
				disabled={!!shown.blueprint.contradiction || !shown.plan.rows?.length}
				onclick={async () => ((shown.building = !shown.building), await shown.save())}>Find forms</Button
			>{/if}
	</div>
{/if}
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.blueprint && shown.plan}
	{#if shown.building}<Assemble
			blueprint={shown.blueprint}
			ontake={(nearest) => ((shown.plan = nearest as Plan), shown.changed())}
		/>{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_250px] items-start gap-3">
		<Panel label="Rows" class="min-w-0 [&_td]:!px-1.5 [&_th]:!px-1.5">
			<Table within="max-h-[calc(100vh-230px)]">
				<thead
					><tr
						><th>Standard</th><th>Topic</th><th>Depth</th><th>Type</th>{#if (shown.plan.parts?.length ?? 1) > 1}<th
								>Section</th
							>{/if}<th>From</th><th>To</th><th></th><th>In the bank</th><th></th></tr
					></thead
				>
				<tbody>
					{#each shown.plan.rows ?? [] as r, at (at)}
						{@const stock = shown.blueprint.stock[at]}
						<tr>
							<td>
								<input
									class="input mt-0 w-[104px] font-mono text-[12.5px]"
									list="codes"
									aria-label="Row {at + 1}: standard"
									bind:value={r.standard}
									oninput={shown.changed}
									disabled={!shown.may}
								/>
								<div class="small max-w-[104px] truncate" title={shown.texts.get(r.standard ?? '')}>
									{shown.texts.get(r.standard ?? '') ?? ''}
								</div>
							</td>
							<td
								><input
									class="input mt-0 w-[84px]"
									list="topics"
									aria-label="Row {at + 1}: topic"
									placeholder="any"
									bind:value={r.topic}
									oninput={shown.changed}
									disabled={!shown.may}
								/></td
							>
							<td>
								<Select
									label="Row {at + 1}: depth"
									choices={[
										{ value: null, label: 'any' },
										...[1, 2, 3, 4].map((depth) => ({ value: depth, label: `${depth}` }))
									]}
									bind:value={r.depth}
									onchange={shown.changed}
									disabled={!shown.may}
									class="mt-0 w-[62px]"
								/>
							</td>
							<td>
								<Select
									label="Row {at + 1}: type"
									choices={[
										{ value: '', label: 'any' },
										...(shown.fields?.kinds ?? []).map((kind) => ({ value: kind.name, label: String(kind.value) }))
									]}
									bind:value={r.kind}
									onchange={shown.changed}
									disabled={!shown.may}
									class="mt-0 w-[92px]"
								/>
							</td>
							{#if (shown.plan.parts?.length ?? 1) > 1}
								<td
									><Select
										label="Row {at + 1}: section"
										choices={(shown.plan.parts ?? []).map((part, n) => ({
											value: n,
											label: `${part.name || n + 1}`
										}))}
										bind:value={r.part}
										onchange={shown.changed}
										disabled={!shown.may}
										class="mt-0 w-24"
									/></td
								>
							{/if}
							<td
								><input
									class="input mt-0 w-12 px-1.5 text-right"
									type="number"
									min="0"
									aria-label="Row {at + 1}: from"
									bind:value={r.low}
									oninput={shown.changed}
									disabled={!shown.may}
								/></td
							>
							<td
								><input
									class="input mt-0 w-12 px-1.5 text-right"
									type="number"
									min="0"
									aria-label="Row {at + 1}: to"
									bind:value={r.high}
									oninput={shown.changed}
									disabled={!shown.may}
								/></td
							>
							<td>
								<Select
									label="Row {at + 1}: counted in"
									choices={[
										{ value: 'items', label: 'items' },
										{ value: 'points', label: 'points' }
									]}
									bind:value={r.count}
									onchange={shown.changed}
									disabled={!shown.may}
									class="mt-0 w-[76px] px-1"
								/>
							</td>
							<td class="whitespace-nowrap text-[12.5px]">
								{#if stock}
									{@const have = r.count === 'points' ? stock.points : stock.items}
									<span
										class="inline-block h-2.5 align-middle {stock.missing
											? 'border border-dashed border-ink2'
											: 'bg-relief3'}"
										style:width="{Math.min(60, (have / Math.max(1, r.low)) * 12)}px"
									></span>
									{have}{#if stock.missing}<b class="font-semibold">
											· {stock.missing} missing</b
										>{/if}{#if stock.empties}<div class="small max-w-[180px] whitespace-normal">
											{stock.empties}
										</div>{:else}<div
											class="small"
											title="{stock.known} of {stock.items} items were used before; {stock.fresh} were not used this year"
										>
											{stock.known} used, {stock.fresh} new
										</div>{/if}
								{/if}
							</td>
							<td
								>{#if shown.may}<Button
										kind="quiet"
										class="min-h-[26px]"
										aria-label="Remove row {at + 1}"
										onclick={() => (shown.plan?.rows?.splice(at, 1), shown.changed())}>×</Button
									>{/if}</td
							>
						</tr>
					{:else}<tr
							><td colspan="10" class="py-6 text-ink2"
								>No rows yet. Start with one row per standard of the grade, or add a row.</td
							></tr
						>{/each}
				</tbody>
			</Table>
			{#if shown.may}
				<div class="flex gap-2 border-t border-hair p-2">
					<Button onclick={() => (shown.plan?.rows?.push(shown.row()), shown.changed())}>Add row</Button>
					{#if shown.mine.length && shown.mine.length < 60}<Button onclick={shown.each}>Add a row per standard</Button
						>{/if}
				</div>
			{/if}
		</Panel>
		<Panel label="The whole form" class="p-4">
			<label class="field mb-2"
				>Name<input
					class="input"
					bind:value={shown.blueprint.name}
					oninput={shown.changed}
					maxlength="120"
					disabled={!shown.may}
				/></label
			>
			<div class="mb-2 grid grid-cols-[2fr_1fr] gap-2">
				<label class="field"
					>Subject<input
						class="input"
						list="subjects"
						bind:value={shown.blueprint.subject}
						onchange={shown.changed}
						disabled={!shown.may}
					/></label
				>
				<label class="field"
					>Grade<input
						class="input"
						bind:value={shown.blueprint.grade}
						onchange={shown.changed}
						disabled={!shown.may}
					/></label
				>
			</div>
			<label class="field mb-3"
				>Kind
				<Select
					bind:value={shown.blueprint.kind}
					choices={[
						{ value: '', label: 'not set' },
						...shown.kinds.map((kind) => ({
							value: kind.name,
							label: kindOfTest(kind.name)
						}))
					]}
					onchange={shown.changed}
					disabled={!shown.may}
				/>
			</label>
			<p class="small mb-3">{shown.kinds.find((k) => k.name === shown.blueprint?.kind)?.says ?? ''}</p>
			<h2 class="mb-1">The whole form</h2>
			<div class="grid grid-cols-[1fr_64px_64px] items-center gap-x-2 gap-y-1 text-[13px]">
				<span></span><span class="small">from</span><span class="small">to</span>
				{#each shown.WHOLE as [name, word] (name)}
					<span>{word}</span>
					<input
						class="input mt-0 text-right"
						type="number"
						min="0"
						aria-label="{word} from"
						value={shown.plan[name]?.low ?? ''}
						oninput={(e) => shown.whole(name, 'low', e.currentTarget.value)}
						disabled={!shown.may}
					/>
					<input
						class="input mt-0 text-right"
						type="number"
						min="0"
						aria-label="{word} to"
						value={shown.plan[name]?.high ?? ''}
						oninput={(e) => shown.whole(name, 'high', e.currentTarget.value)}
						disabled={!shown.may}
					/>
				{/each}
				<span>Items per stimulus</span>
				<input
					class="input mt-0 text-right"
					type="number"
					min="0"
					aria-label="Items per stimulus from"
					bind:value={shown.plan.set_low}
					oninput={shown.changed}
					disabled={!shown.may}
				/>
				<input
					class="input mt-0 text-right"
					type="number"
					min="1"
					aria-label="Items per stimulus to"
					bind:value={shown.plan.set_high}
					oninput={shown.changed}
					disabled={!shown.may}
				/>
				<span>Expected share, %</span>
				<input
					class="input mt-0 text-right"
					type="number"
					min="1"
					max="99"
					aria-label="Expected share in percent"
					placeholder="any"
					value={shown.plan.target ? Math.round(shown.plan.target * 100) : ''}
					oninput={(e) => (
						shown.plan && (shown.plan.target = e.currentTarget.value ? Number(e.currentTarget.value) / 100 : null),
						shown.changed()
					)}
					disabled={!shown.may}
				/>
				<span></span>
			</div>
			<h2 class="mb-1 mt-4">Sections</h2>
			{#each shown.plan.parts ?? [] as part, at (at)}
				<div class="mb-2 grid grid-cols-[1fr_64px_28px] gap-1">
					<input
						class="input mt-0"
						aria-label="Section {at + 1}: name"
						placeholder="one section"
						bind:value={part.name}
						oninput={shown.changed}
						disabled={!shown.may}
					/>
					<input
						class="input mt-0 text-right"
						type="number"
						min="1"
						aria-label="Section {at + 1}: minutes"
						placeholder="min"
						bind:value={part.minutes}
						oninput={shown.changed}
						disabled={!shown.may}
					/>
					{#if shown.may && (shown.plan.parts?.length ?? 1) > 1}<Button
							kind="quiet"
							class="min-h-[26px]"
							aria-label="Remove section {at + 1}"
							onclick={() => {
								shown.plan?.parts?.splice(at, 1);
								shown.plan?.rows?.forEach((r) => {
									if ((r.part ?? 0) >= at && r.part) r.part -= 1;
								});
								shown.changed();
							}}>×</Button
						>{:else}<span></span>{/if}
					<textarea
						class="input col-span-3 mt-0"
						rows="2"
						aria-label="Section {at + 1}: instructions"
						placeholder="Instructions for students"
						bind:value={part.instructions}
						oninput={shown.changed}
						disabled={!shown.may}></textarea>
				</div>
			{/each}
			{#if shown.may && (shown.plan.parts?.length ?? 0) < 12}<Button
					onclick={() => (shown.plan?.parts?.push({ name: '', instructions: '', minutes: null }), shown.changed())}
					>Add section</Button
				>{/if}
			{#if shown.blueprint.forms.length}
				<h2 class="mb-1 mt-4">Forms from this blueprint</h2>
				{#each shown.blueprint.forms as form (form.id)}<div class="flex min-h-[26px] items-center">
						<a class="word leading-[24px]" href="/tests/{form.id}">{form.name}</a>
					</div>{/each}
			{/if}
		</Panel>
	</div>
	<datalist id="codes"
		>{#each shown.mine as s (s.code)}<option value={s.code}>{s.text}</option>{/each}</datalist
	>
	<datalist id="topics"
		>{#each shown.fields?.topics ?? [] as topic (topic)}<option value={topic}></option>{/each}</datalist
	>
	<datalist id="subjects"
		>{#each [...new Set(shown.standards.map((s) => s.subject))] as subject (subject)}<option value={subject}
			></option>{/each}</datalist
	>
{/if}
