<script lang="ts">
	import { goto, invalidate } from '$app/navigation';
	import { page } from '$app/state';
	import { api, said, type Schemas } from '$lib/api/client';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';
	import { day, percent, whole } from '$lib/words/show';
	import OwedNames from '../OwedNames.svelte';
	import Dates from './Dates.svelte';
	import type { PageProps } from './$types';

	/** Who has taken what, by school, grade, subject, test, class or group, with the names behind each number. */
	let { data }: PageProps = $props();
	let problem = $derived(data.problem);
	const BY = [
		{ value: 'school', label: 'School' },
		{ value: 'grade', label: 'Grade' },
		{ value: 'subject', label: 'Subject' },
		{ value: 'test', label: 'Test' },
		{ value: 'class', label: 'Class' },
		{ value: 'group', label: 'Group' }
	];
	let open = $state(false);
	let asked = $state<{ title: string; query: Record<string, string> }>({ title: '', query: {} });
	const window = $derived(data.window?.id ?? '');
	const may = $derived(staff.may('years.write'));
	let choices = $state<Schemas['Choices'] | null>(null);
	let rule = $state({ form: '', who: '' });
	let told = $state('');

	function by(value: string) {
		const url = new URL(page.url);
		url.searchParams.set('by', value);
		void goto(url, { replaceState: true, noScroll: true, keepFocus: true });
	}

	function names(row: string | null, of: { standing?: string; reason?: string; words: string }) {
		const field = data.by === 'class' ? 'klass' : data.by;
		const query: Record<string, string> = {};
		if (of.standing) query.standing = of.standing;
		if (of.reason) query.reason = of.reason;
		if (row) query[field] = row;
		asked = { title: row ? `${row}, ${of.words}` : of.words, query };
		open = true;
	}

	async function adding() {
		choices ??= (await api.GET('/api/sessions/choices')).data ?? null;
	}

	async function add(event: SubmitEvent) {
		event.preventDefault();
		problem = told = '';
		try {
			const made = await api.POST('/api/participation/requirements', {
				body: { window, form: rule.form, rule: rule.who, why: '' }
			});
			told = made.data?.says ?? '';
			rule = { form: '', who: '' };
			await invalidate('bildung:participation');
		} catch (error) {
			problem = said(error);
		}
	}

	async function drop(id: string) {
		try {
			await api.DELETE('/api/participation/requirements/{requirement_id}', {
				params: { path: { requirement_id: id } }
			});
			await invalidate('bildung:participation');
		} catch (error) {
			problem = said(error);
		}
	}

	async function end(id: string) {
		try {
			await api.DELETE('/api/participation/exemptions/{exemption_id}', { params: { path: { exemption_id: id } } });
			await invalidate('bildung:participation');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<svelte:head><title>Participation · Bildung</title></svelte:head>

<div class="small mb-1">
	<a class="word" href="/sessions?window={window}">Sessions</a>{data.window
		? ` · ${data.window.name}, ${day(data.window.start)} to ${day(data.window.end)}`
		: ''}
</div>
<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">{data.found?.finding ?? 'Participation'}</h1>
	{#if data.found?.may_plan && data.found.whole.owed}
		<a class="btn" href="/api/participation/report.pdf?window={window}" target="_blank" rel="noopener">Print report</a>
		<a class="btn" href="/sessions/makeups?window={window}">Plan makeups</a>
	{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if data.found?.whole.owed}
	<div class="mb-2 flex items-center gap-3">
		<ToggleGroup label="Show by" value={data.by} choices={BY} onchange={by} />
		<span class="small ml-auto">Rate: submitted out of all owed except exempt</span>
	</div>
	<section {@attach scrollable} class="sheet frozen max-h-[calc(100vh-260px)]">
		<table>
			<thead
				><tr
					><th>{BY.find((b) => b.value === data.by)?.label}</th><th class="n">Owed</th
					>{#each data.found.whole.counts as c (c.standing)}<th class="n first-letter:uppercase">{c.words}</th
						>{/each}<th class="n">Rate</th><th class="w-[140px]"></th></tr
				></thead
			>
			<tbody>
				{#each [...data.found.rows, data.found.whole] as row, at (row.name)}
					{@const total = at === data.found.rows.length}
					<tr class:font-semibold={total}>
						<td>{row.name}</td>
						<td class="n">{whole(row.owed)}</td>
						{#each row.counts as c (c.standing)}
							<td class="n"
								>{#if c.n}<button class="word min-h-[24px]" onclick={() => names(total ? null : row.name, c)}
										>{whole(c.n)}</button
									>{:else}<span class="text-ink2">0</span>{/if}</td
							>
						{/each}
						<td class="n">{row.rate === null ? '–' : percent(row.rate)}</td>
						<td
							><span class="block h-2.5 w-[120px] border border-edge-soft"
								><span class="block h-full bg-relief2" style:width="{(row.rate ?? 0) * 100}%"></span></span
							></td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
	{#if data.found.whole.reasons.some((r) => r.n)}
		<p class="mt-2 flex flex-wrap items-center gap-x-4 text-[14px]">
			<span class="small">Not scheduled:</span>
			{#each data.found.whole.reasons.filter((r) => r.n) as r (r.reason)}
				<button class="word min-h-[24px]" onclick={() => names(null, { reason: r.reason, words: r.words })}
					>{whole(r.n)} {r.words}</button
				>
			{/each}
		</p>
	{/if}
{:else if data.found}
	<div class="sheet p-6 text-ink2">
		A test is owed as soon as a session is scheduled for it, or as soon as a rule below requires it.
	</div>
{/if}
<div class="mt-4 grid grid-cols-2 items-start gap-4">
	{#if data.found?.may_plan}
		<section class="sheet px-4 py-3" aria-labelledby="required">
			<h2 id="required" class="mb-1">Required tests</h2>
			<p class="small mb-2">
				Students whom a rule names owe the test even before it is scheduled. Without rules, the classes that have a
				session owe it.
			</p>
			{#each data.rules as r (r.id)}
				<div class="flex items-center gap-3 border-t border-hair2 py-1.5 text-[14px]">
					<span class="flex-1"><b class="font-semibold">{r.test}</b>: {r.who}</span>
					{#if r.problem}<span class="notch">{r.problem}</span>{:else}<span class="small"
							>{whole(r.students)} students</span
						>{/if}
					{#if may}<Ask
							label="Remove"
							quiet
							question="Remove this requirement? Sessions that are scheduled stay."
							yes="Remove"
							onyes={() => drop(r.id)}
						/>{/if}
				</div>
			{/each}
			{#if told}<p class="mt-1.5 text-[14px]" role="status">{told}</p>{/if}
			{#if may}
				<form class="mt-2 grid grid-cols-[1fr_1fr_auto] items-end gap-2" onsubmit={add} onfocusin={adding}>
					<label class="field"
						>Test
						<Select
							bind:value={rule.form}
							choices={(choices?.forms ?? []).map((f) => ({ value: f.id, label: f.name }))}
							placeholder="Choose a form"
						/>
					</label>
					<label class="field"
						>Students<input
							class="input"
							maxlength="400"
							placeholder="everyone in the grade"
							bind:value={rule.who}
						/></label
					>
					<button class="btn" disabled={!rule.form}>Add</button>
				</form>
			{/if}
		</section>
	{/if}
	{#if data.exempt}
		<section class="sheet px-4 py-3" aria-labelledby="exemptions">
			<h2 id="exemptions" class="mb-1">Exemptions</h2>
			<p class="small mb-2">Enter one on the page of the student.</p>
			{#each data.exempt.exemptions as e (e.id)}
				<div class="flex items-center gap-3 border-t border-hair2 py-1.5 text-[14px]">
					<span class="flex-1"
						>{#if e.person}<a class="word" href="/people/{e.person}">{staff.name(e.who, Number(e.person))}</a
							>{:else}{e.who}{/if}: {e.reason}<span class="small block leading-tight"
							>{e.subject || 'all subjects'}{e.window ? `, ${e.window}` : ''}, from {day(e.starts)}{e.ends
								? ` until ${day(e.ends)}`
								: ''}{e.asked_by ? `; asked by ${e.asked_by}` : ''}{e.instead ? `; ${e.instead}` : ''}</span
						></span
					>
					{#if data.found?.may_exempt}<Ask
							label="End"
							quiet
							question="End this exemption? The tests are owed again."
							yes="End exemption"
							onyes={() => end(e.id)}
						/>{/if}
				</div>
			{:else}<p class="small">No one is exempt.</p>{/each}
		</section>
	{/if}
</div>
{#if may && data.window}<div class="mt-4 grid grid-cols-2 items-start gap-4">
		{#key data.window.id}<Dates window={data.window} />{/key}
	</div>{/if}
<OwedNames bind:open title={asked.title} {window} query={asked.query} />
