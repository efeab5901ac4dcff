<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import Ask from '$lib/parts/Ask.svelte';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="small mb-1"><a class="word" href="/bank">Bank</a> · Frameworks</div>
<div class="mb-3 flex flex-wrap items-start gap-3">
	<Finding of="Frameworks" class="min-w-[320px] flex-1">
		{shown.data?.finding ?? (shown.none ? 'No framework yet. Import one from CASE or from a spreadsheet.' : '')}
	</Finding>
	{#if shown.data && shown.data.frameworks.length > 1}
		<Select
			label="Framework"
			choices={shown.data.frameworks.map((f) => ({
				value: f.id,
				label: `${f.title} ${f.version}${f.main ? ' (main)' : ''}`
			}))}
			value={shown.data.framework.id}
			onchange={(to) => goto(`?framework=${to}`, { keepFocus: true }).then(shown.load)}
			class="mt-0 w-auto max-w-[300px]"
		/>
	{/if}
	{#if staff.may('frameworks.write')}<Button
			aria-expanded={shown.bringing}
			onclick={() => (shown.bringing = !shown.bringing)}>Import framework</Button
		>{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.bringing}
	<div class="mb-3">
		<label class="field mb-2 w-80">Title (for CSV files)<input class="input" bind:value={shown.title} /></label>
		<ImportPanel
			kind="frameworks"
			title={shown.title}
			accept=".json,.csv,.xlsx"
			hint="A CASE 1.0 or 1.1 package (JSON), or a sheet with the columns code and text, and if you have them parent, plain, kind, subject, grade, grade_to, priority. Items stay with a standard whose text or place changes."
			onapplied={shown.applied}
		/>
	</div>
{/if}
{#if shown.data}
	<Panel label="Standards">
		<div class="flex flex-wrap items-center gap-2 border-b border-hair p-2">
			<input
				class="input mt-0 min-w-0 flex-1"
				data-find
				type="search"
				placeholder="Search codes, texts and family wording"
				aria-label="Search codes, texts and family wording"
				bind:value={shown.find}
			/>
			{#if shown.data.may_change && !shown.data.framework.main}<Ask
					label="Set as main"
					question="From then on, codes alone refer to {shown.data.framework.title} {shown.data.framework
						.version} on items and lessons."
					yes="Set as main"
					onyes={shown.main}
				/>{/if}
			<span class="small">Import as</span>
			{#each [['case1.1', 'CASE 1.1'], ['case1.0', 'CASE 1.0'], ['csv', 'CSV']] as [kind, word] (kind)}<Button
					href="/api/frameworks/{shown.data.framework.id}/export?kind={kind}"
					download>{word}</Button
				>{/each}
		</div>
		<Table within="max-h-[calc(100vh-260px)]">
			<thead><tr><th>Standard</th><th>Family wording</th><th>Grades</th><th>Items</th><th>Crosswalk</th></tr></thead>
			<tbody>
				{#each shown.shown as r (r.id)}
					{#if !r.leaf}
						<tr
							><th
								colspan="5"
								scope="colgroup"
								class="bg-paper font-semibold text-ink"
								style:padding-left="{8 + r.depth * 18}px"
								>{r.text} <code class="ml-1 font-normal text-ink2">{r.code}</code></th
							></tr
						>
					{:else}
						<tr>
							<td style:padding-left="{8 + r.depth * 18}px">
								<span class="flex items-start gap-2">
									{#if shown.data.may_change}<button
											class="mt-0.5 size-6 flex-none cursor-pointer"
											aria-pressed={r.priority}
											title="{r.priority ? 'A priority' : 'No priority'}; click to change"
											aria-label="{r.code} is a priority"
											onclick={() => shown.change(r, { priority: !r.priority })}
											><span class="mx-auto block size-3 rotate-45 {r.priority ? 'bg-petrol' : 'border border-relief3'}"
											></span></button
										>
									{:else if r.priority}<span
											class="mt-1.5 block size-3 flex-none rotate-45 bg-petrol"
											role="img"
											aria-label="a priority"
										></span>{/if}
									<span class="py-1"><code class="whitespace-nowrap">{r.code}</code> {r.text}</span>
								</span>
							</td>
							<td class="min-w-[190px]">
								{#if shown.editing === r.id}
									<form
										class="flex gap-1 py-1"
										onsubmit={(e) => (e.preventDefault(), void shown.change(r, { plain: shown.plain }))}
									>
										<!-- svelte-ignore a11y_autofocus (opened by a click on this very sentence) -->
										<input
											class="input mt-0"
											aria-label="Family wording of {r.code}"
											bind:value={shown.plain}
											maxlength="300"
											autofocus
											onkeydown={(e) => e.key === 'Escape' && (shown.editing = '')}
										/><Button type="submit" kind="primary">Save</Button>
									</form>
								{:else if shown.data.may_change}<button
										class="min-h-6 text-left {r.plain ? 'word' : 'text-ink2 underline decoration-dotted'}"
										onclick={() => ((shown.editing = r.id), (shown.plain = r.plain))}>{r.plain || 'write it'}</button
									>
								{:else}{r.plain}{/if}
							</td>
							<td class="whitespace-nowrap">{shown.span(r)}</td>
							<td
								><span class="flex items-center gap-1.5"
									><span class="block h-3 bg-relief2" style:width="{(r.items / shown.most) * 60}px"
									></span>{#if r.items}<a class="word" href="/bank?find=standard:{encodeURIComponent(r.code)}"
											>{r.items}</a
										>{:else}<span class={r.priority ? 'notch' : 'text-ink2'}>none</span>{/if}</span
								></td
							>
							<td class="text-[12.5px]"
								>{#each r.linked as l (l.relation + l.code)}<div class="whitespace-nowrap" title={l.framework}>
										{shown.RELATIONS[l.relation] ?? l.relation} <code>{l.code}</code>
									</div>{/each}</td
							>
						</tr>
					{/if}
				{:else}<tr><td colspan="5" class="text-ink2">No standards match.</td></tr>{/each}
			</tbody>
		</Table>
		<p class="small border-t border-hair p-2">
			A filled diamond marks a priority standard. Crosswalk lists its counterparts in other frameworks and versions.
		</p>
	</Panel>
{/if}
