<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day } from '$lib/words/show';

	const KIND_WORDS: Record<string, string> = { spot: 'spot check', '': 'kind not said' };
	let data = $state<Schemas['FormsOut'] | null>(null);
	let blueprints = $state<Schemas['BlueprintLine'][]>([]);
	let kinds = $state<Schemas['KindOut'][]>([]);
	let problem = $state('');
	let making = $state('');
	let told = $state<Schemas['Brought'] | null>(null);
	let words = $state('');
	let kind = $state('all');
	let draft = $state({ name: '', title: '', subject: '', grade: '', kind: '', blueprint_id: '' });

	const family = $derived(page.url.searchParams.get('family') ?? '');
	const shown = $derived(
		(data?.forms ?? []).filter(
			(f) =>
				(!family || f.family_id === family) &&
				(kind === 'all' || f.kind === kind) &&
				words
					.toLowerCase()
					.split(/\s+/)
					.every((w) =>
						`${f.name} ${f.title} ${f.subject} grade ${f.grade} ${f.family} ${f.unit} ${f.owner || 'common'} ${f.standards.join(' ')} ${f.on_paper ? 'paper' : 'screen only'} ${f.marks_itself ? 'marks itself' : 'marked by a person'} ${f.published_at ? 'published' : 'draft'}`
							.toLowerCase()
							.includes(w)
					)
		)
	);
	const there = $derived([...new Set((data?.forms ?? []).map((f) => f.kind))].sort());
	const word = (name: string) => KIND_WORDS[name] ?? name;

	onMount(async () => {
		try {
			[data, blueprints, kinds] = await Promise.all([
				body(api.GET('/api/forms')),
				body(api.GET('/api/building/blueprints')),
				body(api.GET('/api/building/kinds'))
			]);
			if (data.forms.length === 0 && staff.may('tests.write')) making = 'form';
		} catch (error) {
			problem = said(error);
		}
	});

	/** A test of somebody else's, with its items: all of it or nothing. */
	async function bring(event: Event & { currentTarget: HTMLInputElement }) {
		const file = event.currentTarget.files?.[0];
		event.currentTarget.value = '';
		if (!file) return;
		problem = '';
		try {
			const form = new FormData();
			form.append('file', file);
			const made = await body(
				api.POST('/api/building/packages', { body: form as never, bodySerializer: (b: unknown) => b as FormData })
			);
			told = made;
			data = await body(api.GET('/api/forms'));
		} catch (error) {
			problem = said(error);
		}
	}

	async function make(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		try {
			if (making === 'blueprint') {
				const { name, subject, grade, kind } = draft;
				const made = await body(
					api.POST('/api/building/blueprints', {
						body: {
							revision: 0,
							name,
							subject,
							grade,
							kind,
							content: { rows: [], parts: [{ name: '', instructions: '' }], set_low: 1, set_high: 12 }
						}
					})
				);
				await goto(`/tests/blueprints/${made.id}`);
			} else {
				const form = await body(
					api.POST('/api/forms', { body: { ...draft, blueprint_id: draft.blueprint_id || null } })
				);
				await goto(`/tests/${form.id}`);
			}
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<svelte:head><title>Tests · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">{data?.finding ?? ''}</h1>
	{#if staff.may('tests.write')}
		{#if staff.may('bank.keep')}<label class="btn cursor-pointer"
				>Bring in a QTI test<input class="sr-only" type="file" accept=".zip" onchange={bring} /></label
			>{/if}
		<button
			class="btn"
			aria-expanded={making === 'blueprint'}
			onclick={() => (making = making === 'blueprint' ? '' : 'blueprint')}>Write a blueprint</button
		>
		<button class="btn" aria-expanded={making === 'form'} onclick={() => (making = making === 'form' ? '' : 'form')}
			>Make a form</button
		>
	{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if told}<p class="mb-3 border-l-4 border-l-petrol pl-3 text-[13.5px]" role="status">
		{told.says} <a class="word" href="/tests/{told.form_id}">Look through it</a>
	</p>{/if}
{#if making}
	<form class="sheet mb-3 flex flex-wrap items-end gap-3 p-4" onsubmit={make}>
		<label class="field flex-1"
			>Name among staff<input class="input" bind:value={draft.name} required maxlength="120" /></label
		>
		{#if making === 'form'}<label class="field flex-1"
				>Title for students<input
					class="input"
					bind:value={draft.title}
					placeholder={draft.name}
					maxlength="120"
				/></label
			>{/if}
		<label class="field">Subject<input class="input !w-36" bind:value={draft.subject} /></label>
		<label class="field">Grade<input class="input !w-20" bind:value={draft.grade} /></label>
		<label class="field"
			>Kind<select class="input !w-36" bind:value={draft.kind}
				><option value="">not said</option>{#each kinds as k (k.name)}<option value={k.name}>{word(k.name)}</option
					>{/each}</select
			></label
		>
		{#if making === 'form'}<label class="field"
				>Blueprint<select class="input !w-52" bind:value={draft.blueprint_id}
					><option value="">none</option>{#each blueprints as b (b.id)}<option value={b.id}>{b.name}</option
						>{/each}</select
				></label
			>{/if}
		<button class="btn primary">{making === 'form' ? 'Choose its items' : 'Say what it is to hold'}</button>
		{#if draft.kind}<p class="small w-full">
				{kinds.find((k) => k.name === draft.kind)?.says}{kinds.find((k) => k.name === draft.kind)?.same
					? '; everyone gets the same questions'
					: ''}.
			</p>{/if}
	</form>
{/if}
<div class="grid items-start gap-3 {blueprints.length ? 'min-[1200px]:grid-cols-[minmax(0,1fr)_230px]' : ''}">
	{#if data?.forms.length}
		<section class="sheet min-w-0">
			<div class="flex flex-wrap items-center gap-2 border-b border-hair p-2">
				<input
					class="input !mt-0 !w-64"
					data-find
					type="search"
					placeholder="name, standard, unit, owner, paper …"
					aria-label="Find tests"
					bind:value={words}
				/>
				<div class="flex flex-wrap gap-1" role="group" aria-label="Kind">
					<button class="btn quiet !min-h-[28px]" aria-pressed={kind === 'all'} onclick={() => (kind = 'all')}
						>all</button
					>
					{#each there as k (k)}<button
							class="btn quiet !min-h-[28px]"
							aria-pressed={kind === k}
							onclick={() => (kind = k)}>{word(k)}</button
						>{/each}
				</div>
				{#if family}<a class="btn quiet !min-h-[28px]" href="/tests"
						>companions of {shown[0]?.family ?? 'one family'} ×</a
					>{/if}
				<span class="small ml-auto whitespace-nowrap" role="status">{shown.length} of {data.forms.length}</span>
			</div>
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-190px)]">
				<table>
					<thead
						><tr
							><th class="min-w-[210px]">Form</th><th>Kind</th><th>For</th><th class="n">Items</th><th>Standards</th><th
								>Marks</th
							><th>State</th><th class="n">Sessions</th></tr
						></thead
					>
					<tbody>
						{#each shown as form (form.id)}
							<tr tabindex="-1" data-row onclick={() => goto(`/tests/${form.id}`)}>
								<td class="py-1"
									><a class="word inline-block min-h-[24px]" href="/tests/{form.id}">{form.name}</a
									>{#if form.family && !family}<div class="small min-h-[24px]">
											{form.role} of
											<a class="word" href="/tests/families/{form.family_id}" onclick={(e) => e.stopPropagation()}
												>{form.family}</a
											>
										</div>{/if}</td
								>
								<td class="whitespace-nowrap">{word(form.kind)}</td>
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
								<td class="whitespace-nowrap"
									>{form.items
										? form.marks_itself
											? 'itself'
											: 'by a person'
										: ''}{#if form.items && !form.on_paper}<div class="small">not on paper</div>{/if}</td
								>
								<td class="whitespace-nowrap"
									>{form.published_at
										? `out ${day(form.published_at.slice(0, 10)).replace(/ \d{4}$/, '')}`
										: 'draft'}</td
								>
								<td class="n">{form.sessions}</td>
							</tr>
						{:else}<tr><td colspan="8" class="text-ink2">No test fits.</td></tr>{/each}
					</tbody>
				</table>
			</div>
		</section>
	{/if}
	{#if blueprints.length}
		<section class="sheet p-3" aria-label="Blueprints">
			<h2 class="mb-2">Blueprints</h2>
			<div class="max-h-[calc(100vh-190px)] overflow-auto" {@attach scrollable}>
				{#each blueprints as b (b.id)}
					<div class="flex min-h-[28px] items-center gap-2 text-[13.5px]">
						<a class="word leading-[24px]" href="/tests/blueprints/{b.id}">{b.name}</a><span class="small"
							>{b.forms ? `${b.forms} ${b.forms === 1 ? 'form' : 'forms'}` : ''}</span
						>
					</div>
				{/each}
			</div>
		</section>
	{/if}
</div>
