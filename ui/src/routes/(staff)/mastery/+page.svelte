<script lang="ts">
	import { goto, invalidateAll } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { toAddress, type Asked } from './asked';
	import Cell from './grid/Cell.svelte';
	import Filters from './grid/Filters.svelte';
	import Key from './grid/Key.svelte';
	import Table from './grid/Table.svelte';
	import Wide from './grid/Wide.svelte';
	import type { PageProps } from './$types';

	/** The grid: who can do what by now, a cell of each student and standard with the run behind it. */
	let { data }: PageProps = $props();
	const SHARES = 'mastery.shares';
	const MOST_ROWS = 60;
	const MOST_COLUMNS = 40;
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	let order = $state<'need' | 'name' | 'change'>('need');
	let by = $state<'framework' | 'need'>('framework');
	let shares = $state(localStorage.getItem(SHARES) !== 'no');
	let open = $state<{ person: string; standard: string } | null>(null);
	let cell = $state.raw<Schemas['CellPage'] | null>(null);
	let asked = 0;
	const rows = $derived(
		[...(page?.rows ?? [])].sort((a, b) => {
			const worth = order === 'need' ? b.need - a.need : order === 'change' ? b.changes - a.changes : 0;
			return worth || staff.name(a.name, a.alias).localeCompare(staff.name(b.name, b.alias));
		})
	);
	const columns = $derived.by(() => {
		const places = (page?.columns ?? []).map((_, at) => at);
		const need = (at: number) => page?.columns[at]?.need ?? 0;
		return by === 'need' ? places.sort((a, b) => need(b) - need(a) || a - b) : places;
	});
	const wide = $derived(rows.length > MOST_ROWS || columns.length > MOST_COLUMNS);
	const row = $derived(rows.find((r) => r.person === open?.person));
	const hidden = $derived(staff.veiled ? '&names=false' : '');

	$effect(() => localStorage.setItem(SHARES, shares ? 'yes' : 'no'));

	function go(change: Partial<Asked>) {
		[open, cell] = [null, null];
		void goto(`/mastery?${toAddress(data.asked, change)}`, { noScroll: true });
	}
	async function show(person: string, standard: string) {
		const mine = ++asked;
		open = { person, standard };
		try {
			const found = await body(
				api.GET('/api/mastery/students/{person}/standards/{standard}', { params: { path: { person, standard } } })
			);
			if (mine === asked) [cell, problem] = [found, ''];
		} catch (error) {
			problem = said(error);
		}
	}
	async function again() {
		if (open) await show(open.person, open.standard);
		await invalidateAll();
	}
	const file = (path: string) => `/api/mastery/${path}?${toAddress(data.asked, {})}${hidden}`;
	const exports = $derived([
		{ label: 'Grid as PDF', href: file('grid.pdf') },
		...(page?.class_id
			? [
					{
						label: 'A page a student, PDF',
						href: `/api/mastery/classes/${page.class_id}/students.pdf?${hidden.slice(1)}`
					}
				]
			: []),
		{ label: 'Grid as XLSX', href: file('grid.xlsx') },
		{ label: 'Grid as CSV', href: file('grid.csv') },
		{ label: 'Evidence as CSV', href: file('evidence.csv') }
	]);
	const more = $derived([
		{ label: 'Groups at work', href: '/mastery/working' },
		...(staff.may('mastery.enter') ? [{ label: 'What counts', href: '/mastery/evidence' }] : []),
		{ label: 'Rules', href: '/mastery/rules' }
	]);
</script>

<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-2 flex flex-wrap items-start gap-2">
		<Finding
			of="Mastery"
			beside={page.title ? [page.subject, page.grade && `grade ${page.grade}`].filter(Boolean).join(', ') : ''}
			class="max-w-[760px] flex-1"
			live>{page.finding}</Finding
		>
		{#if page.class_id && page.rows.length && page.columns.length}<Button href="/mastery/groups?klass={page.class_id}"
				>Groups from needs</Button
			>{:else if page.rows.length}<MakeGroup people={rows.map((r) => r.person)} name={page.title} />{/if}
		<Button href="/mastery/district?subject={encodeURIComponent(page.subject)}">District</Button>
		{#if page.rows.length && page.columns.length}<Menu label="Export" entries={exports} />{/if}
		<Menu label="More" entries={more} />
	</div>
	<Filters {page} asked={data.asked} {go} bind:order bind:by bind:shares {wide} />
	{#if page.rows.length && page.columns.length}
		<Key states={page.states} arrows={page.arrows} />
		<div class="grid gap-3 lg:grid-cols-[minmax(0,1fr)_262px]">
			{#if wide}<div class="sheet"><Wide {page} {rows} {columns} onopen={show} /></div>
			{:else}<Table {page} {rows} {columns} {shares} {open} onopen={show} />{/if}
			<Panel label="Chosen cell" class="px-4 py-3">
				{#if cell && open && row}
					<Cell {cell} alias={row.alias} subject={page.subject} onchange={again} />
				{:else}
					<h2 class="text-[15px]">What a cell says</h2>
					<p class="small mt-1">Choose a cell to see its run, response by response.</p>
					<p class="small mt-2">{page.asks}</p>
				{/if}
			</Panel>
		</div>
	{/if}
{/if}
