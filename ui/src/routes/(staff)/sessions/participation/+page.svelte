<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { goto, invalidate } from '$app/navigation';
	import { page } from '$app/state';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import ExemptionLines from '$lib/parts/ExemptionLines.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, percent, whole } from '$lib/words/show';
	import OwedNames from '../OwedNames.svelte';
	import Dates from './Dates.svelte';
	import Required from './Required.svelte';
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
</script>

<div class="small mb-1">
	<a class="word" href="/sessions?window={window}">Sessions</a>{data.window
		? ` · ${data.window.name}, ${day(data.window.start)} to ${day(data.window.end)}`
		: ''}
</div>
<div class="mb-3 flex items-start gap-3">
	<Finding of="Participation" class="flex-1">{data.found?.finding ?? ''}</Finding>
	{#if data.found?.may_plan && data.found.whole.owed}
		<Button href="/api/participation/report.pdf?window={window}" target="_blank" rel="noopener">Print report</Button>
		<Button href="/sessions/makeups?window={window}">Plan makeups</Button>
	{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if data.found?.whole.owed}
	<div class="mb-2 flex items-center gap-3">
		<ToggleGroup label="Show by" value={data.by} choices={BY} onchange={by} />
		<span class="small ml-auto">Rate: submitted out of all owed except exempt</span>
	</div>
	<Table within="sheet max-h-[calc(100vh-260px)]">
		<thead
			><tr
				><th>{BY.find((b) => b.value === data.by)?.label}</th><th class="n">Owed</th
				>{#each data.found.whole.counts as c (c.standing)}<th class="n first-letter:uppercase">{c.words}</th>{/each}<th
					class="n">Rate</th
				><th class="w-[140px]"></th></tr
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
	</Table>
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
		<Required {window} rules={data.rules} {may} onchanged={() => invalidate('bildung:participation')} />
	{/if}
	{#if data.exempt}
		<section class="sheet px-4 py-3" aria-labelledby="exemptions">
			<h2 id="exemptions" class="mb-1">Exemptions</h2>
			<p class="small mb-2">Enter one on the page of the student.</p>
			<ExemptionLines
				lines={data.exempt.exemptions}
				may={data.found?.may_exempt ?? false}
				named
				onended={() => invalidate('bildung:participation')}
			/>
			{#if !data.exempt.exemptions.length}<p class="small">No one is exempt.</p>{/if}
		</section>
	{/if}
</div>
{#if may && data.window}<div class="mt-4 grid grid-cols-2 items-start gap-4">
		{#key data.window.id}<Dates window={data.window} />{/key}
	</div>{/if}
<OwedNames bind:open title={asked.title} {window} query={asked.query} />
