<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import { toasts } from '$lib/design/toasts.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { day, decimal } from '$lib/words/show';
	import Views from '../../Views.svelte';
	import type { PageProps } from './$types';

	/** Cut scores by grade and season, in versions: those that hold, and a table to change them in. */
	type Row = { grade: string; season: string; cuts: string[] };
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	let editing = $state(false);
	let names = $state<string[]>([]);
	let rows = $state<Row[]>([]);
	let goal = $state(2);
	let source = $state('');
	let shown = $state(0);
	const set = $derived(page?.sets[shown]);

	function edit() {
		const now = page?.sets[0];
		names = now ? [...now.names] : page?.levels.length ? [...page.levels] : ['Below', 'Meets', 'Exceeds'];
		goal = now?.goal ?? Math.min(2, names.length);
		source = '';
		rows = now
			? now.rows.map((r) => ({ ...r, cuts: r.cuts.map((c) => decimal(c, page?.measure.decimals ?? 0)) }))
			: (page?.grades.length ? page.grades : ['']).map((grade) => ({
					grade,
					season: '',
					cuts: names.slice(1).map(() => '')
				}));
		editing = true;
	}

	/** One level more or less: every row has as many cut scores as there are borders between levels. */
	function resize(to: number) {
		names = Array.from({ length: to }, (_, at) => names[at] ?? `Level ${at + 1}`);
		rows = rows.map((r) => ({ ...r, cuts: Array.from({ length: to - 1 }, (_, at) => r.cuts[at] ?? '') }));
		goal = Math.min(goal, to);
	}

	async function save(event: Event) {
		event.preventDefault();
		if (!page) return;
		try {
			await body(
				api.PUT('/api/growth/measures/{measure}/cuts', {
					params: { path: { measure: params.measure } },
					body: {
						names,
						goal,
						source,
						based: page.sets[0]?.number ?? 0,
						rows: rows.map((r) => ({ ...r, cuts: r.cuts.map((c) => Number(c.replace('−', '-') || 'NaN')) }))
					}
				})
			);
			[editing, problem, shown] = [false, '', 0];
			toasts.say('Cut scores saved.');
			await invalidate('bildung:cuts');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Views measure={params.measure} now="cuts" />
<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Cut scores: {page.measure.name}" title="Cut scores" station="Growth" class="max-w-[860px] flex-1"
			>{page.finding}</Finding
		>
		{#if page.keeps && !editing}<Button kind="primary" onclick={edit}
				>{page.sets.length ? 'Edit' : 'Add cut scores'}</Button
			>{/if}
	</div>
	{#if editing}
		<Panel label="Edit cut scores" class="px-5 py-4">
			<form onsubmit={save}>
				<div class="mb-3 flex flex-wrap items-end gap-3">
					<label class="field"
						>Levels<Select
							value={names.length}
							choices={[2, 3, 4, 5, 6, 7, 8].map((n) => ({ value: n, label: String(n) }))}
							onchange={resize}
						/></label
					>
					{#each names as _, at (at)}<label class="field"
							>{at === 0 ? 'Lowest level' : `Level ${at + 1}`}<input
								class="input w-[140px]"
								required
								maxlength="40"
								bind:value={names[at]}
							/></label
						>{/each}
					<label class="field"
						>Goal<Select
							bind:value={goal}
							choices={names.slice(1).map((label, at) => ({ value: at + 2, label }))}
						/></label
					>
				</div>
				<div class="max-h-[420px] overflow-auto">
					<Table>
						<thead
							><tr
								><th>Grade</th><th>Season</th>{#each names.slice(1) as name (name)}<th>{name} from</th>{/each}<th
									><span class="sr-only">Actions</span></th
								></tr
							></thead
						>
						<tbody>
							{#each rows as row, at (at)}
								<tr>
									<td
										><input
											class="input small-input w-[90px]"
											aria-label="Grade of row {at + 1}"
											placeholder="all"
											bind:value={row.grade}
										/></td
									>
									<td
										><input
											class="input small-input w-[120px]"
											aria-label="Season of row {at + 1}"
											placeholder="all"
											list="seasons"
											bind:value={row.season}
										/></td
									>
									{#each row.cuts as _, place (place)}<td
											><input
												class="input small-input w-[90px]"
												inputmode="decimal"
												required
												aria-label="{names[place + 1]} from, row {at + 1}"
												bind:value={row.cuts[place]}
											/></td
										>{/each}
									<td
										><Button kind="quiet" onclick={() => (rows = rows.filter((_, one) => one !== at))}>Remove</Button
										></td
									>
								</tr>
							{/each}
						</tbody>
					</Table>
					<datalist id="seasons"
						>{#each page.seasons as season (season)}<option value={season}></option>{/each}</datalist
					>
				</div>
				<Button
					class="mt-2"
					onclick={() => (rows = [...rows, { grade: '', season: '', cuts: names.slice(1).map(() => '') }])}
					>Add row</Button
				>
				<label class="field mt-3 block max-w-[520px]"
					>Source, such as who decided it and when<input
						class="input"
						required
						maxlength="300"
						bind:value={source}
					/></label
				>
				<p class="small mt-2">
					A score at a cut score belongs to the level above. A row for a grade and season goes before one for the grade.
					The scale is {page.measure.low} to {page.measure.high}{page.measure.falling
						? '; less is better, so cut scores fall'
						: ''}.
				</p>
				<div class="mt-3 flex gap-2">
					<Button type="submit" kind="primary">Save version {(page.sets[0]?.number ?? 0) + 1}</Button>
					<Button onclick={() => (editing = false)}>Cancel</Button>
				</div>
			</form>
		</Panel>
	{:else if set}
		<Panel label="Version {set.number}" class="px-4 py-3">
			<div class="mb-2 flex flex-wrap items-center gap-3">
				<h2 class="text-[15px]">Version {set.number}{shown === 0 ? ', which holds' : ''}</h2>
				<span class="small flex-1">{set.source}; saved {day(set.added)} by {set.by}</span>
				{#if page.sets.length > 1}<Select
						label="Version"
						bind:value={shown}
						choices={page.sets.map((s, at) => ({ value: at, label: `version ${s.number}` }))}
					/>{/if}
			</div>
			<Table within="max-h-[460px] overflow-auto">
				<thead
					><tr
						><th>Grade</th><th>Season</th>{#each set.names.slice(1) as name, at (name)}<th class="n"
								>{name} from{at + 2 === set.goal ? ' (the goal)' : ''}</th
							>{/each}</tr
					></thead
				>
				<tbody>
					{#each set.rows as row (`${row.grade} ${row.season}`)}<tr
							><td>{row.grade || 'all'}</td><td>{row.season || 'all'}</td>{#each row.cuts as cut, at (at)}<td class="n"
									>{decimal(cut, page.measure.decimals)}</td
								>{/each}</tr
						>{/each}
				</tbody>
			</Table>
		</Panel>
	{/if}
{/if}
