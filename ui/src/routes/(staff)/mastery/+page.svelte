<script lang="ts">
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';
	import { day, decimal, percent } from '$lib/words/show';
	import Run from './Run.svelte';
	import { inkOn, SHORT, TINTS } from './states';
	import type { PageProps } from './$types';

	/** The grid: who can do what by now, a cell of each student and standard with the run behind it. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	let order = $state<'need' | 'name'>('need');
	let open = $state<{ person: string; standard: string } | null>(null);
	let cell = $state.raw<Schemas['CellPage'] | null>(null);
	let table = $state<HTMLTableElement>();
	let asked = 0;
	const rows = $derived(
		[...(page?.rows ?? [])].sort((a, b) =>
			order === 'need' && a.need !== b.need
				? b.need - a.need
				: staff.name(a.name, a.alias).localeCompare(staff.name(b.name, b.alias))
		)
	);
	const name = $derived(rows.find((r) => r.person === open?.person));

	function go(change: Record<string, string>) {
		const query = new URLSearchParams(Object.entries({ ...data.asked, ...change }).filter(([, value]) => value));
		[open, cell] = [null, null];
		void goto(`/mastery?${query}`, { noScroll: true });
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

	/** Arrow keys go from cell to cell. */
	function move(event: KeyboardEvent, row: number, column: number) {
		const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
		if (!by) return;
		event.preventDefault();
		table?.querySelector<HTMLButtonElement>(`[data-at="${row + by[0]!} ${column + by[1]!}"]`)?.focus();
	}

	const words = (c: Schemas['GridCell']) =>
		[
			c.state === 1 ? `insufficient evidence, ${decimal(c.amount, 0)} points` : (page?.states[c.state] ?? ''),
			c.share === null ? '' : `${percent(c.share)} of ${decimal(c.amount, 0)} points`,
			c.way > 0 ? 'rising' : c.way < 0 ? 'falling' : '',
			c.again ? 'check again' : '',
			c.lapsed ? 'lapsed' : ''
		]
			.filter(Boolean)
			.join(', ');
	const file = (kind: string) => {
		const query = new URLSearchParams({ klass: page?.class_id ?? '', domain: data.asked.domain });
		return `/api/mastery/grid.${kind}?${query}${staff.veiled ? '&names=false' : ''}`;
	};
	const short = (c: Schemas['GridColumn']) => c.code.split('-').at(-1) ?? c.code;
</script>

<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-2 flex flex-wrap items-start gap-2">
		<Finding
			of="Mastery"
			beside={page.klass ? `${page.subject}, grade ${page.grade}` : ''}
			class="max-w-[860px] flex-1"
			live>{page.finding}</Finding
		>
		{#if page.rows.length && page.columns.length}<Button href="/mastery/groups?klass={page.class_id}"
				>Groups from needs</Button
			>{/if}
		{#if page.rows.length}<Menu
				label="Export"
				entries={[
					{ label: 'Grid as CSV', href: file('csv') },
					{ label: 'Grid as XLSX', href: file('xlsx') },
					{ label: 'Evidence as CSV', href: `/api/mastery/classes/${page.class_id}/evidence.csv` }
				]}
			/>{/if}
	</div>
	<div class="mb-2 flex flex-wrap items-end gap-3">
		<label class="field"
			>Class<Select
				value={page.class_id ?? ''}
				choices={page.classes.map((c) => ({ value: c.id, label: c.title, more: c.school }))}
				onchange={(klass) => go({ klass, domain: '' })}
			/></label
		>
		{#if page.domains.length > 1 || page.domain}<label class="field"
				>Domain<Select
					value={page.domain}
					choices={[{ value: '', label: 'all domains' }, ...page.domains.map((d) => ({ value: d, label: d }))]}
					onchange={(domain) => go({ domain })}
				/></label
			>{/if}
		<DateField label="Evidence from" value={data.asked.first} onchange={(first) => go({ first })} />
		<DateField label="to" value={data.asked.last} onchange={(last) => go({ last })} />
		<div>
			<ToggleGroup
				label="Order"
				bind:value={order}
				choices={[
					{ value: 'need', label: 'By need' },
					{ value: 'name', label: 'By name' }
				]}
			/>
		</div>
		<Checkbox class="pb-1" checked={data.asked.priority === 'yes'} onchange={(on) => go({ priority: on ? 'yes' : '' })}
			>Priority standards</Checkbox
		>
		{#if page.empty || data.asked.whole}<Checkbox
				class="pb-1"
				checked={data.asked.whole === 'yes'}
				onchange={(on) => go({ whole: on ? 'yes' : '' })}>{page.empty} without evidence</Checkbox
			>{/if}
	</div>
	{#if page.rows.length && page.columns.length}
		<div class="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[13px]">
			{#each [2, 3, 4, 5] as at (at)}<span class="flex items-center gap-1.5"
					><i class="inline-block h-3 w-4 rounded-[2px]" style="background: {TINTS[at]}"></i>{page.states[at]}</span
				>{/each}
			<span class="flex items-center gap-1.5"
				><svg width="16" height="12" aria-hidden="true"
					><path d="M1 10L15 2" stroke="currentColor" stroke-width="2" /></svg
				>rising</span
			>
			<span class="flex items-center gap-1.5"
				><svg width="16" height="12" aria-hidden="true"
					><path d="M1 2L15 10" stroke="currentColor" stroke-width="2" /></svg
				>falling</span
			>
			<span class="flex items-center gap-1.5"
				><svg width="12" height="12" aria-hidden="true"
					><circle cx="6" cy="6" r="4" fill="none" stroke="currentColor" stroke-width="1.4" /></svg
				>check again</span
			>
			<span class="small">{page.arrows}</span>
		</div>
		<div class="grid gap-3 lg:grid-cols-[minmax(0,1fr)_290px]">
			<div {@attach scrollable} class="frozen sheet max-h-[560px] overflow-auto">
				<table bind:this={table} aria-label="Students by standards">
					<thead>
						<tr>
							<th class="sticky left-0 z-20 min-w-[128px]">Student</th>
							{#each page.columns as c (c.standard)}
								<th class="px-1 text-center {c.standard === open?.standard ? 'bg-wash' : ''}" title="{c.code}: {c.text}"
									><a class="word" href="/mastery/standards/{c.standard}?klass={page.class_id}">{short(c)}</a></th
								>
							{/each}
						</tr>
					</thead>
					<tbody>
						{#each rows as row, at (row.person)}
							<tr>
								<th
									scope="row"
									class="sticky left-0 z-10 text-left font-normal whitespace-nowrap {row.person === open?.person
										? 'bg-wash font-semibold'
										: 'bg-sheet'}"
									><a class="word" href="/mastery/{row.person}?subject={encodeURIComponent(page.subject)}"
										>{staff.name(row.name, row.alias)}</a
									></th
								>
								{#each row.cells as c, place (place)}
									{@const standard = page.columns[place]?.standard ?? ''}
									<td class="px-px py-0.5">
										<button
											class="ground {row.person === open?.person && standard === open?.standard ? 'chosen' : ''}"
											style="background: {TINTS[c.state]}; color: {inkOn(c.state)}"
											data-at="{at} {place}"
											tabindex={at === 0 && place === 0 ? 0 : -1}
											aria-label="{staff.name(row.name, row.alias)}, {page.columns[place]?.code}: {words(c)}"
											title={words(c)}
											onclick={() => show(row.person, standard)}
											onkeydown={(e) => move(e, at, place)}
										>
											<span class="truncate"
												>{c.state === 1 ? `${decimal(c.amount, 0)} points` : c.state === 0 ? '–' : SHORT[c.state]}</span
											>
											{#if c.way}<svg class="edge" viewBox="0 0 60 6" preserveAspectRatio="none" aria-hidden="true"
													><path
														d={c.way > 0 ? 'M0 5L60 1' : 'M0 1L60 5'}
														stroke="currentColor"
														stroke-width="2"
													/></svg
												>{/if}
											{#if c.again}<svg class="again" width="9" height="9" aria-hidden="true"
													><circle
														cx="4.5"
														cy="4.5"
														r="3.4"
														fill="none"
														stroke="currentColor"
														stroke-width="1.3"
													/></svg
												>{/if}
										</button>
									</td>
								{/each}
							</tr>
						{/each}
					</tbody>
					<tfoot>
						<tr>
							<th scope="row" class="sticky left-0 bg-sheet text-left">Mastered</th>
							{#each page.columns as c (c.standard)}<td class="text-center text-[12.5px]"
									><b>{c.mastered}</b> of {c.assessed}</td
								>{/each}
						</tr>
						<tr>
							<th scope="row" class="sticky left-0 bg-sheet text-left font-normal">Grade {page.grade}, district</th>
							{#each page.columns as c (c.standard)}<td class="small text-center"
									>{c.grade_share === null ? '–' : percent(c.grade_share)}</td
								>{/each}
						</tr>
					</tfoot>
				</table>
			</div>
			<Panel label="Chosen cell" class="px-4 py-3">
				{#if cell && open && name}
					<p class="small">{cell.code}, {cell.plain || cell.text}</p>
					<h2 class="text-[16px]">{staff.name(name.name, name.alias)}: {cell.state}</h2>
					<p class="mt-1 text-[15px] leading-snug font-semibold">{cell.says}</p>
					{#if cell.pieces.length}<Run page={cell} />{/if}
					<h3 class="mt-3 text-[13.5px] font-semibold">Since when</h3>
					<ul class="small">
						{#each cell.history as h (h.day)}<li>
								{day(h.day)}: {percent(h.share)} that day, {h.state}
							</li>{/each}
					</ul>
					<p class="mt-3">
						<Button href="/mastery/{open.person}?subject={encodeURIComponent(page.subject)}">All standards</Button>
					</p>
				{:else}
					<h2 class="text-[15px]">What a cell says</h2>
					<p class="small mt-1">Choose a cell to see its run, response by response.</p>
					<p class="small mt-2">{page.asks}</p>
				{/if}
			</Panel>
		</div>
	{/if}
{/if}

<style>
	.ground {
		position: relative;
		display: flex;
		align-items: center;
		justify-content: center;
		width: 100%;
		min-width: 60px;
		height: 25px;
		padding: 0 1px;
		overflow: hidden;
		font-size: 11.5px;
		border-radius: 2px;
		cursor: pointer;
	}
	.ground:focus-visible,
	.ground.chosen {
		outline: 2px solid var(--color-petrol);
		outline-offset: -1px;
		box-shadow: inset 0 0 0 3px var(--color-white);
	}
	.edge {
		position: absolute;
		top: 0;
		left: 0;
		width: 100%;
		height: 5px;
	}
	.again {
		position: absolute;
		right: 2px;
		bottom: 2px;
	}
</style>
