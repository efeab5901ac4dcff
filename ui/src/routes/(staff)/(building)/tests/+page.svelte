<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { shortDay } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);

	const family = $derived(page.url.searchParams.get('family') ?? '');
	const listed = $derived(
		(shown.data?.forms ?? []).filter(
			(f) =>
				(!family || f.family_id === family) &&
				(shown.kind === 'all' || f.kind === shown.kind) &&
				shown.words
					.toLowerCase()
					.split(/\s+/)
					.every((w) =>
						`${f.name} ${f.title} ${f.subject} grade ${f.grade} ${f.family} ${f.unit} ${f.owner || 'common'} ${f.standards.join(' ')} ${f.on_paper ? 'paper' : 'screen only'} ${f.marks_itself ? 'auto-scored' : 'hand-scored'} ${f.published_at ? 'published' : 'draft'}`
							.toLowerCase()
							.includes(w)
					)
		)
	);
</script>

<div class="mb-3 flex items-start gap-3">
	<Finding of="Tests" class="flex-1">{shown.data?.finding ?? ''}</Finding>
	{#if staff.may('tests.write')}
		{#if staff.may('bank.keep')}<label class="btn cursor-pointer"
				>Import QTI test<input class="sr-only" type="file" accept=".zip" onchange={shown.bring} /></label
			>{/if}
		<Button
			aria-expanded={shown.making === 'blueprint'}
			onclick={() => (shown.making = shown.making === 'blueprint' ? '' : 'blueprint')}>New blueprint</Button
		>
		<Button
			aria-expanded={shown.making === 'form'}
			onclick={() => (shown.making = shown.making === 'form' ? '' : 'form')}>New form</Button
		>
	{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.told}<p class="mb-3 border-l-4 border-l-petrol pl-3 text-[13.5px]" role="status">
		{shown.told.says} <a class="word" href="/tests/{shown.told.form_id}">Preview</a>
	</p>{/if}
{#if shown.making}
	<form class="sheet mb-3 flex flex-wrap items-end gap-3 p-4" onsubmit={shown.make}>
		<label class="field flex-1"
			>Name (staff only)<input class="input" bind:value={shown.draft.name} required maxlength="120" /></label
		>
		{#if shown.making === 'form'}<label class="field flex-1"
				>Title for students<input
					class="input"
					bind:value={shown.draft.title}
					placeholder={shown.draft.name}
					maxlength="120"
				/></label
			>{/if}
		<label class="field">Subject<input class="input w-36" bind:value={shown.draft.subject} /></label>
		<label class="field">Grade<input class="input w-20" bind:value={shown.draft.grade} /></label>
		<label class="field"
			>Kind<Select
				bind:value={shown.draft.kind}
				choices={[
					{ value: '', label: 'not set' },
					...shown.kinds.map((k) => ({ value: k.name, label: `${shown.word(k.name)}` }))
				]}
				class="w-36"
			/></label
		>
		{#if shown.making === 'form'}<label class="field"
				>Blueprint<Select
					bind:value={shown.draft.blueprint_id}
					choices={[{ value: '', label: 'none' }, ...shown.blueprints.map((b) => ({ value: b.id, label: b.name }))]}
					class="w-52"
				/></label
			>{/if}
		<Button type="submit" kind="primary">{shown.making === 'form' ? 'Choose its items' : 'Create blueprint'}</Button>
		{#if shown.draft.kind}<p class="small w-full">
				{shown.kinds.find((k) => k.name === shown.draft.kind)?.says}{shown.kinds.find(
					(k) => k.name === shown.draft.kind
				)?.same
					? '; everyone gets the same questions'
					: ''}.
			</p>{/if}
	</form>
{/if}
<div class="grid items-start gap-3 {shown.blueprints.length ? 'min-[1200px]:grid-cols-[minmax(0,1fr)_230px]' : ''}">
	{#if shown.data?.forms.length}
		<Panel class="min-w-0">
			<div class="flex flex-wrap items-center gap-2 border-b border-hair p-2">
				<input
					class="input mt-0 w-64"
					data-find
					type="search"
					placeholder="name, standard, unit, owner, paper …"
					aria-label="Find tests"
					bind:value={shown.words}
				/>
				<div class="flex flex-wrap gap-1" role="group" aria-label="Kind">
					<Button
						kind="quiet"
						class="min-h-[28px]"
						aria-pressed={shown.kind === 'all'}
						onclick={() => (shown.kind = 'all')}>all</Button
					>
					{#each shown.there as k (k)}<Button
							kind="quiet"
							class="min-h-[28px]"
							aria-pressed={shown.kind === k}
							onclick={() => (shown.kind = k)}>{shown.word(k)}</Button
						>{/each}
				</div>
				{#if family}<Button kind="quiet" class="min-h-[28px]" href="/tests"
						>companions of {listed[0]?.family ?? 'one family'} ×</Button
					>{/if}
				<span class="small ml-auto whitespace-nowrap" role="status">{listed.length} of {shown.data.forms.length}</span>
			</div>
			<Table within="max-h-[calc(100vh-190px)]">
				<thead
					><tr
						><th class="min-w-[210px]">Form</th><th>Kind</th><th>For</th><th class="n">Items</th><th>Standards</th><th
							class="max-[1100px]:hidden">Scoring</th
						><th>State</th><th class="n">Sessions</th></tr
					></thead
				>
				<tbody>
					{#each listed as form (form.id)}
						<tr tabindex="-1" data-row onclick={() => form.may_open && goto(`/tests/${form.id}`)}>
							<td class="py-1"
								>{#if form.may_open}<a class="word inline-block min-h-[24px]" href="/tests/{form.id}">{form.name}</a
									>{:else}{form.name}<span class="small block leading-tight"
										>{form.secured ? 'secure until its last session is over' : 'holds items of a secure test'}</span
									>{/if}{#if form.family && !family}<div class="small min-h-[24px]">
										{form.role} of
										<a class="word" href="/tests/families/{form.family_id}" onclick={(e) => e.stopPropagation()}
											>{form.family}</a
										>
									</div>{/if}</td
							>
							<td class="whitespace-nowrap">{shown.word(form.kind)}</td>
							<td class="whitespace-nowrap"
								>{form.subject}
								{form.grade}{#if form.unit || form.owner}<div class="small max-w-[150px] truncate">
										{[form.unit, form.owner].filter(Boolean).join(', ')}
									</div>{/if}</td
							>
							<td class="n">{form.items}</td>
							<td class="whitespace-nowrap" title={form.standards.join(', ')}
								><code class="text-[12px]">{form.standards[0] ?? ''}</code>{form.standards.length > 1
									? ` +${form.standards.length - 1}`
									: ''}</td
							>
							<td class="whitespace-nowrap max-[1100px]:hidden"
								>{form.items
									? form.marks_itself
										? 'automatic'
										: 'hand-scored'
									: ''}{#if form.items && !form.on_paper}<div class="small">screen only</div>{/if}</td
							>
							<td class="whitespace-nowrap"
								>{form.published_at ? `published ${shortDay(form.published_at.slice(0, 10))}` : 'draft'}</td
							>
							<td class="n">{form.sessions}</td>
						</tr>
					{:else}<tr><td colspan="8" class="text-ink2">No tests match.</td></tr>{/each}
				</tbody>
			</Table>
		</Panel>
	{/if}
	{#if shown.blueprints.length}
		<Panel label="Blueprints" headed class="p-3">
			<div class="max-h-[calc(100vh-190px)] overflow-auto" {@attach scrollable}>
				{#each shown.blueprints as b (b.id)}
					<div class="flex min-h-[28px] items-center gap-2 text-[13.5px]">
						<a class="word leading-[24px]" href="/tests/blueprints/{b.id}">{b.name}</a><span class="small"
							>{b.forms ? `${b.forms} ${b.forms === 1 ? 'form' : 'forms'}` : ''}</span
						>
					</div>
				{/each}
			</div>
		</Panel>
	{/if}
</div>
