<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';
	import { decimal, percent, whole } from '$lib/words/show';
	import LevelBar from '../../LevelBar.svelte';
	import { ask } from '../../asked';
	import Scope from '../../Scope.svelte';
	import Views from '../../Views.svelte';
	import type { PageProps } from './$types';

	/** One window of a measure: who is at which level, how sure that is, and where students stand in the norms. */
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	let by = $state<'class' | 'school'>('class');
	let order = $state<'score' | 'name'>('score');
	const lines = $derived(page ? (by === 'school' ? page.by_school : page.by_class) : []);
	const students = $derived(
		[...(page?.students ?? [])].sort((a, b) =>
			order === 'score' ? a.score - b.score : staff.name(a.name, a.alias).localeCompare(staff.name(b.name, b.alias))
		)
	);
	const focus = $derived(page?.skills.find((s) => s.focus));

	const go = (change: Record<string, string>) => ask(`/growth/${params.measure}/levels`, data.query, change);
	const sure = (s: Schemas['StandingOf']) =>
		s.near ? 'near a cut score' : s.probability === null ? '' : `${percent(s.probability)} sure`;
</script>

{#snippet bars(rows: Schemas['LevelGroup'][], wide: boolean)}
	<div class="grid gap-y-1.5">
		{#each rows as line (`${line.id} ${line.name}`)}
			<div class="grid items-center gap-3 {wide ? 'grid-cols-[74px_1fr_118px]' : 'grid-cols-[130px_1fr_118px]'}">
				<span class="truncate text-[13.5px]">{wide ? `Grade ${line.name}` : line.name}</span>
				{#if line.hidden}<span class="small">not shown, too few students</span><span></span>
				{:else if page}
					<LevelBar levels={page.levels} counts={line.counts} goal={page.goal} />
					<span class="small tabular-nums"
						>{#if line.share !== null}<b class="text-ink">{percent(line.share)}</b>
							{percent(line.ci95?.[0] ?? 0)}–{percent(line.ci95?.[1] ?? 0)}{:else}n = {line.n}{/if}</span
					>
				{/if}
			</div>
		{/each}
	</div>
{/snippet}

<Views measure={params.measure} now="levels" at={data.query.at} />
<Notice text={data.problem} />
{#if page}
	<Finding
		of="{page.measure.name}, {page.at.name}"
		title={page.measure.name}
		station="Growth"
		beside={page.cuts || 'without cut scores'}
		class="mb-2 max-w-[900px]"
		live>{page.finding}</Finding
	>
	<div class="mb-3 flex flex-wrap items-end gap-3">
		<label class="field"
			>Window<Select
				value={page.at.id}
				choices={page.windows.map((w) => ({ value: w.id, label: w.name }))}
				onchange={(at) => go({ at })}
			/></label
		>
		<Scope of={page} {go} />
		{#if page.levels.length}
			<span class="flex flex-wrap items-center gap-x-4 pb-1 text-[13px]">
				{#each page.levels as level, at (level)}<span class="flex items-center gap-1.5"
						><i
							class="inline-block size-3 rounded-[2px]"
							style="background: var(--color-relief{page.levels.length < 2
								? 3
								: Math.round(1 + (4 * at) / (page.levels.length - 1))})"
						></i>{level}{at + 1 === page.goal ? ' (the goal)' : ''}</span
					>{/each}
			</span>
		{/if}
	</div>
	<div class="grid gap-3 lg:grid-cols-2">
		{#if page.levels.length && page.by_grade.length}
			<Panel label="Grades" class="px-4 py-3">
				<div class="mb-2 flex items-baseline gap-3">
					<h2 class="text-[15px]">Grades</h2>
					<span class="small">share at the goal or better, with 95% interval</span>
				</div>
				{@render bars(page.by_grade, true)}
			</Panel>
			<Panel label="Classes and schools" class="px-4 py-3">
				<div class="mb-2 flex items-center gap-3">
					<h2 class="flex-1 text-[15px]">{by === 'class' ? 'Classes' : 'Schools'}</h2>
					{#if page.by_school.length > 1}<ToggleGroup
							label="By"
							bind:value={by}
							choices={[
								{ value: 'class', label: 'Classes' },
								{ value: 'school', label: 'Schools' }
							]}
						/>{/if}
				</div>
				<div {@attach scrollable} class="max-h-[300px] overflow-auto">{@render bars(lines, false)}</div>
				<p class="small mt-2">A class figure does not measure a teacher.</p>
			</Panel>
		{/if}
		{#if page.skills.length}
			<Panel label="Skills in the order they are learned" class="px-4 py-3 lg:col-span-2">
				<div class="mb-2 flex items-baseline gap-3">
					<h2 class="text-[15px]">Skills in the order they are learned</h2>
					<span class="small"
						>ready to leave: truly at or above the cut score with 80%; {focus
							? `focus needed: ${focus.name}`
							: 'no skill needs focus'}</span
					>
				</div>
				<Table>
					<thead
						><tr
							><th>Skill</th><th class="n">Students</th><th class="n">Ready to leave</th><th>First open skill of</th
							></tr
						></thead
					>
					<tbody>
						{#each page.skills as skill (skill.measure_id)}
							<tr
								><td class={skill.focus ? 'font-semibold' : ''}
									><a class="word" href="/growth/{skill.measure_id}/levels">{skill.name}</a>{skill.focus
										? ', focus needed'
										: ''}</td
								><td class="n">{whole(skill.n)}</td><td class="n"
									>{skill.share === null ? '–' : `${whole(skill.ready)} (${percent(skill.share)})`}</td
								><td class="small"
									>{skill.open.length > 8 && !page.grade
										? `${skill.open.length === 40 ? '40 or more' : skill.open.length} students; choose a grade to see who`
										: staff.veiled
											? `${skill.open.length} students`
											: skill.open.join(', ') || 'none'}</td
								></tr
							>
						{/each}
					</tbody>
				</Table>
			</Panel>
		{/if}
		{#if students.length}
			<Panel label="Students" class="px-4 py-3 lg:col-span-2">
				<div class="mb-1 flex flex-wrap items-center gap-3">
					<h2 class="text-[15px]">Students</h2>
					<span class="small flex-1"
						>percentile ranks {page.norms
							? `by ${page.norms.name}, version ${page.norms.version}`
							: 'among the students here'}; error in brackets</span
					>
					<ToggleGroup
						label="Order"
						bind:value={order}
						choices={[
							{ value: 'score', label: 'By score' },
							{ value: 'name', label: 'By name' }
						]}
					/>
				</div>
				<Table within="max-h-[420px] overflow-auto">
					<thead
						><tr
							><th>Student</th><th>Class</th><th class="n">Score</th><th>Level</th><th>How sure</th><th class="n"
								>Percentile rank</th
							><th class="n">NCE</th><th class="n">Stanine</th><th class="n">T</th><th>Marks</th></tr
						></thead
					>
					<tbody>
						{#each students as s (s.id)}
							<tr
								><td
									><a class="word" href="/growth/{params.measure}/students/{s.id}">{staff.name(s.name, s.alias)}</a></td
								><td>{s.klass}</td><td class="n"
									>{decimal(s.score, page.measure.decimals)}{s.se === null ? '' : ` (${decimal(s.se, 1)})`}</td
								><td>{s.standing.level}</td><td class="small {s.standing.near ? 'font-semibold text-ink' : ''}"
									>{sure(s.standing)}</td
								><td class="n"
									>{s.standing.rank ?? '–'}{s.standing.rank_error === null
										? ''
										: ` (${decimal(s.standing.rank_error, 0)})`}{s.standing.held ? ' or beyond' : ''}</td
								><td class="n">{s.standing.nce === null ? '–' : decimal(s.standing.nce, 0)}</td><td class="n"
									>{s.standing.stanine ?? '–'}</td
								><td class="n">{s.standing.t === null ? '–' : decimal(s.standing.t, 0)}</td><td class="small"
									>{s.marks.join('; ')}</td
								></tr
							>
						{/each}
					</tbody>
				</Table>
			</Panel>
		{/if}
	</div>
{/if}
