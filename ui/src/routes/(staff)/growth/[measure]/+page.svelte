<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Combobox from '$lib/design/Combobox.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Student from '$lib/parts/Student.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { decimal, percent, whole } from '$lib/words/show';
	import Menu from '$lib/design/Menu.svelte';
	import { ask } from '../asked';
	import Scope from '../Scope.svelte';
	import Views from '../Views.svelte';
	import GainByStart from './GainByStart.svelte';
	import Moves from './Moves.svelte';
	import Slopes from './Slopes.svelte';
	import type { PageProps } from './$types';

	/** Two windows of a measure: who grew as expected, which classes, what chance brings, who is missing. */
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	let shown = $state('');
	let focus = $state('');
	let sought = $state('');
	let list = $state<'behind' | 'ahead'>('behind');
	let how = $state(false);
	const block = $derived(page?.blocks.find((b) => b.grade === shown) ?? page?.blocks[0]);
	const inBlock = $derived(page?.students.filter((s) => s.grade === block?.grade) ?? []);
	const listed = $derived(page ? page[list] : []);
	const student = $derived(page?.students.find((s) => s.id === focus));
	const found = $derived(
		(page?.students ?? [])
			.map((s) => ({ value: s.id, label: staff.name(s.name, s.alias), more: s.klass }))
			.filter((s) => s.label.toLowerCase().includes(sought.toLowerCase()))
			.slice(0, 12)
	);
	const query = $derived(new URLSearchParams(Object.entries(data.query).filter(([, value]) => value)).toString());
	const report = (kind: string, more = '') =>
		`/api/growth/measures/${params.measure}/report.${kind}?${query}${more}${staff.veiled ? '&names=false' : ''}`;
	const signed = (v: number) => (v > 0 ? '+' : '') + decimal(v, page?.measure.decimals ?? 0);

	const go = (change: Record<string, string>) => ask(`/growth/${params.measure}`, data.query, change);

	function find(id: string) {
		focus = id;
		const grade = page?.students.find((s) => s.id === id)?.grade;
		if (grade) shown = grade;
	}
</script>

<Views measure={params.measure} now="growth" at={data.query.end} />
<Notice text={data.problem} />
{#if page}
	<div class="mb-2 flex flex-wrap items-start gap-2">
		<Finding
			of="{page.klass ? `${page.klass}: ` : ''}{page.measure.name}, {page.start.name} to {page.end.name}"
			title={page.measure.name}
			station="Growth"
			beside={page.norms
				? `${page.norms.name}, version ${page.norms.version}`
				: page.moves
					? 'ordered levels'
					: 'without norms'}
			class="max-w-[860px] flex-1"
			live>{page.finding}</Finding
		>
		<Menu
			label="Export"
			entries={[
				{ label: 'Print (PDF)', href: report('pdf') },
				{ label: 'Workbook (XLSX)', href: report('xlsx') },
				{ label: 'For use outside the school (PDF)', href: report('pdf', '&outside=true') }
			]}
		/>
	</div>
	<div class="mb-3 flex flex-wrap items-end gap-3">
		<label class="field"
			>From<Select
				value={page.start.id}
				choices={page.windows.map((w) => ({ value: w.id, label: w.name, disabled: w.id === page.end.id }))}
				onchange={(start) => go({ start })}
			/></label
		>
		<label class="field"
			>To<Select
				value={page.end.id}
				choices={page.windows.map((w) => ({ value: w.id, label: w.name, disabled: w.id === page.start.id }))}
				onchange={(end) => go({ end })}
			/></label
		>
		<Scope of={page} {go} />
		{#if page.klass}<Button onclick={() => go({ klass: '' })}>All classes</Button>{/if}
		{#if page.attributes.length && !page.moves}<label class="field"
				>Student groups<Select
					value={page.attribute}
					choices={[{ value: '', label: 'none' }, ...page.attributes.map((a) => ({ value: a.id, label: a.name }))]}
					onchange={(attribute) => go({ attribute })}
				/></label
			>{/if}
		<span class="flex-1"></span>
		<div class="w-[240px]">
			<Combobox label="Find a student" choices={found} bind:text={sought} onchoose={find} />
		</div>
	</div>
	{#each page.regression as line (line)}<p class="mb-2 max-w-[980px] border-l-4 border-relief3 pl-3 text-[14px]">
			{line}
		</p>{/each}
	{#if page.moves}<Moves moves={page.moves} start={page.start.name} end={page.end.name} />{/if}
	{#if block}
		<div class="grid gap-3 lg:grid-cols-[minmax(0,55fr)_minmax(0,45fr)]">
			<Panel label="Gain by start" class="px-4 py-3">
				<div class="flex flex-wrap items-center gap-3">
					<h2 class="text-[15px]">Gain by start</h2>
					<span class="small flex-1"
						>contours: equally high for the same start{page.behind.length ? '; filled: reliably behind' : ''}; n = {whole(
							block.line.n
						)}</span
					>
					{#if page.blocks.length > 1}<ToggleGroup
							label="Grade"
							bind:value={() => block.grade, (to) => (shown = to)}
							choices={page.blocks.slice(0, 9).map((b) => ({ value: b.grade, label: b.grade }))}
						/>{/if}
				</div>
				<GainByStart students={inBlock} contours={block.contours} named={page.behind.length > 0} bind:focus />
				{#if page.n > page.students.length}<p class="small">Choose a school or grade to see its students.</p>{/if}
				<p class="small">
					Across: start in {page.start.name}, points. Up: {page.measure.falling
						? 'points won (less is better)'
						: 'gain in points'}.
					{#if student}<b class="text-ink">{staff.name(student.name, student.alias)}</b>, {student.klass}: {student.start}
						→ {student.end}{#if student.expected !== null}, expected {decimal(student.expected, page.measure.decimals)};
							higher than {decimal(student.percentile, 0)} of 100 with the same start{#if student.band}&ensp;({decimal(
									student.band[0] ?? 0,
									0
								)} to {decimal(student.band[1] ?? 0, 0)}){/if}{#if student.claim}, {student.claim === 'cannot be told'
									? 'whether more than they cannot be told'
									: `${student.claim} than they`}{/if}{/if}{#if student.sgp}, growth percentile {student.sgp}{/if}{#if student.end_level},
							{student.end_level}{/if}.
						{#if student.marks.length}{student.marks.join('; ')}.{/if}
						<a class="word" href="/growth/{params.measure}/students/{student.id}">All scores</a>{/if}
				</p>
			</Panel>
			<Panel label="Classes" class="px-4 py-3">
				<div class="flex items-baseline gap-3">
					<h2 class="text-[15px]">Classes as slopes</h2>
					<span class="small"
						>dashed: expected; points above or below it with 95% interval; by chance 1 of 20 is off</span
					>
				</div>
				<div class="max-h-[372px] overflow-auto">
					{#each page.blocks as one (one.grade)}<Slopes block={one} onopen={(klass) => go({ klass })} />{/each}
				</div>
			</Panel>
			<Panel label="Behind and ahead" class="px-4 py-3">
				<div class="mb-1 flex flex-wrap items-center gap-3">
					<h2 class="text-[15px]">{list === 'behind' ? 'Reliably behind' : 'Reliably ahead'}</h2>
					<span class="small flex-1"
						>{#if page.chance}{whole(page.chance[list])} students; {list === 'behind'
								? page.chance.behind_says
								: page.chance.ahead_says}{:else}without standard errors none can be told from chance{/if}</span
					>
					<ToggleGroup
						label="Which"
						bind:value={list}
						choices={[
							{ value: 'behind', label: 'Behind' },
							{ value: 'ahead', label: 'Ahead' }
						]}
					/>
				</div>
				{#if listed.length}
					<div class="max-h-[240px] overflow-auto">
						<Table>
							<thead
								><tr
									><th>Student</th><th>Class</th><th class="n">{page.start.name}</th><th class="n">{page.end.name}</th
									><th class="n">From expected</th><th>Marks</th></tr
								></thead
							>
							<tbody>
								{#each listed as s (s.id)}
									<tr
										><td><Student person={s.id} name={s.name} alias={s.alias} /></td><td>{s.klass}</td><td class="n"
											>{s.start}</td
										><td class="n">{s.end}</td><td class="n"
											>{s.from_expected === null ? '' : signed(s.from_expected)}</td
										><td class="small">{s.marks.join('; ')}</td></tr
									>
								{/each}
							</tbody>
						</Table>
					</div>
					{#if page.chance?.without}<p class="small mt-1">{page.chance.without}</p>{/if}
				{:else if page.chance}<p class="py-6 text-center text-[14px]">
						As many would be here by chance, so no student is named.
					</p>{/if}
			</Panel>
			<Panel label="Who is missing" class="px-4 py-3">
				<div class="flex items-baseline gap-3">
					<h2 class="text-[15px]">Who is missing</h2>
					<span class="small">{whole(page.missing)} of {whole(page.of)} students have no score in one window</span>
				</div>
				<dl class="mt-1 text-[14px]">
					{#each page.reasons as r (r.reason)}<div class="flex justify-between border-b border-hair py-1">
							<dt>{r.reason}</dt>
							<dd class="tabular-nums">{whole(r.n)}</dd>
						</div>{/each}
					{#if page.elsewhere}<div class="flex justify-between border-b border-hair py-1">
							<dt>in no class here for long enough, so in no class figure</dt>
							<dd class="tabular-nums">{whole(page.elsewhere)}</dd>
						</div>{/if}
				</dl>
				{#each page.blocks.flatMap((b) => b.classes).filter((c) => c.says) as c (c.id)}<p class="mt-2 text-[14px]">
						{c.says}
					</p>{/each}
				<p class="small mt-2">
					A class figure does not measure a teacher.
					<Button kind="quiet" aria-expanded={how} onclick={() => (how = !how)}>How this was calculated</Button>
				</p>
				{#if how}<ul class="small list-disc pl-5">
						{#each page.workings as line, at (at)}<li>{line}</li>{/each}
					</ul>{/if}
			</Panel>
		</div>
		{#if page.groups.length}
			<Panel label="Student groups" class="mt-3 px-4 py-3">
				<div class="flex items-baseline gap-3">
					<h2 class="text-[15px]">
						{page.attributes.find((a) => a.id === page.attribute)?.name}
					</h2>
					<span class="small">groups were not made by their start; each with n and 95% interval</span>
				</div>
				<Table>
					<thead
						><tr
							><th>Group</th><th class="n">Students</th><th class="n">Mean start</th><th class="n">Mean gain</th><th
								class="n">Met the expected score</th
							><th class="n">Median SGP</th><th class="n">From expected, points</th></tr
						></thead
					>
					<tbody>
						{#each page.groups as g (g.id)}
							<tr
								><td>{g.name}</td><td class="n">{whole(g.n)}</td>{#if g.hidden}<td colspan="5" class="small">{g.why}</td
									>{:else}<td class="n">{decimal(g.mean_start, 1)}</td><td class="n">{decimal(g.mean_gain, 1)}</td><td
										class="n">{g.met === null ? '' : percent(g.met)}</td
									><td class="n">{g.median_sgp === null ? '' : decimal(g.median_sgp, 0)}</td><td
										class="n {g.off ? 'font-semibold' : ''}"
										>{g.points === null
											? g.why
											: `${g.points > 0 ? '+' : ''}${decimal(g.points, 1)} ± ${decimal(g.reach, 1)}`}</td
									>{/if}</tr
							>
						{/each}
					</tbody>
				</Table>
			</Panel>
		{/if}
		{#if page.by_school.length}
			<Panel label="Schools" class="mt-3 px-4 py-3">
				<h2 class="text-[15px]">Schools</h2>
				<Table>
					<thead
						><tr
							><th>School</th><th class="n">Students</th><th class="n">Mean start</th><th class="n">Mean gain</th><th
								class="n">Met the expected score</th
							><th class="n">From expected, points</th></tr
						></thead
					>
					<tbody>
						{#each page.by_school as s (s.id)}
							<tr
								><td
									><a
										class="word"
										href="/growth/{params.measure}?start={page.start.id}&end={page.end.id}&school={s.id}"
										data-row>{s.name}</a
									></td
								><td class="n">{whole(s.n)}</td><td class="n">{decimal(s.mean_start, 1)}</td><td class="n"
									>{decimal(s.mean_gain, 1)}</td
								><td class="n">{s.met === null ? '' : percent(s.met)}</td><td class="n {s.off ? 'font-semibold' : ''}"
									>{s.points === null
										? s.why
										: `${s.points > 0 ? '+' : ''}${decimal(s.points, 1)} ± ${decimal(s.reach, 1)}`}</td
								></tr
							>
						{/each}
					</tbody>
				</Table>
			</Panel>
		{/if}
	{/if}
{/if}
