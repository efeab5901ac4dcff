<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Grid from '$lib/parts/grid/Grid.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { hue, percent, reliefColor } from '$lib/words/show';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';
	import { Answers, COLUMN_ORDERS, ROW_ORDERS } from './answers.svelte';
	import { paintAnswer } from './paint';

	/** Students by items: patterns of the same wrong answer show as columns of one hue, unexpected answers carry a corner. */
	const asked = new Asked((job) =>
		body(api.GET('/api/quality/grid', { params: { query: { ...address.scope, job } } }))
	);
	const answers = $derived(asked.data ? new Answers(asked.data) : null);
	const data = $derived(asked.data);
	let standards = $state(false);
	let told = $state('');
	let opened = $state<{ student: number; item: number } | null>(null);
	let sentence = $state('');
	const legend = $derived(address.get('legend') === 'on');
	const rows = $derived(answers?.rows ?? []);
	const columns = $derived(answers?.columns ?? []);
	const line = $derived(data?.watch_line ?? 0.6);
	const under = $derived(
		new Set(
			(data?.students ?? [])
				.map((s, at) => (s.share !== null && s.share < line - 1e-9 ? at : -1))
				.filter((at) => at >= 0)
		)
	);
	const several = $derived(new Set(data?.students.map((s) => s.klass)).size > 1);

	const name = (at: number) => staff.name(data?.students[at]?.name ?? '', data?.students[at]?.alias ?? at);
	const letters = $derived(
		[...new Set(data?.items.filter((i) => i.letters).flatMap((i) => i.labels.map((l) => l.text)))].slice(0, 5)
	);

	async function open(row: number, column: number) {
		const student = row < 0 ? -1 : (rows[row] ?? -1);
		const item = column < 0 ? -1 : (columns[column] ?? -1);
		opened = { student, item };
		sentence = '';
		const sitting = data?.students[student]?.sitting;
		if (sitting) {
			try {
				const found = await body(
					api.GET('/api/quality/grid/{sitting_id}', { params: { path: { sitting_id: sitting }, query: address.scope } })
				);
				if (opened?.student === student) sentence = found.says;
			} catch (error) {
				sentence = said(error);
			}
		}
	}

	/** As a table of tabs, in the order on the screen, veiled where the screen is. */
	async function copy() {
		if (!data || !answers) return;
		const head = ['Student', 'Class', 'Points', ...columns.map((c) => String(data.items[c]?.number))].join('\t');
		const lines = rows.map((r) =>
			[name(r), data.students[r]?.klass, data.students[r]?.earned, ...columns.map((c) => answers.text(r, c))].join('\t')
		);
		try {
			await navigator.clipboard.writeText([head, ...lines].join('\n'));
			told = `${rows.length} rows copied${staff.veiled ? ', names hidden' : ''}.`;
		} catch {
			told = 'The browser does not let this page copy; save it as CSV.';
		}
	}
	const file = (kind: string) =>
		address.href(`/api/quality/answers-file/${kind}`, { veiled: staff.veiled ? '1' : null });

	const chosenStudent = $derived(opened && opened.student >= 0 ? data?.students[opened.student] : undefined);
	const chosenItem = $derived(opened && opened.item >= 0 ? data?.items[opened.item] : undefined);
	const onCell = $derived(opened !== null && chosenItem !== undefined && opened.student >= 0);
	const itemAt = (at: number): Schemas['GridItemOut'] => data?.items[at] as Schemas['GridItemOut'];
</script>

<Notice text={asked.problem} />
{#if !data}<p class="small" role="status">{asked.progress || (asked.busy ? 'Reading answers …' : '')}</p>
{:else}
	<Finding of="Answers" station="Item quality" class="mb-2">{data.finding}</Finding>
	<div class="small mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
		<label class="flex items-center gap-1.5"
			>Students by <Select
				value={answers?.rowOrder}
				choices={ROW_ORDERS.map(([value, text]) => ({ value: value, label: text }))}
				onchange={(to) => address.set({ rows: to === 'score' ? null : (to ?? null), sort: null })}
				small
				class="w-auto"
			/></label
		>
		<label class="flex items-center gap-1.5"
			>Items by <Select
				value={answers?.columnOrder}
				choices={COLUMN_ORDERS.map(([value, text]) => ({ value: value, label: text }))}
				onchange={(to) => address.set({ items: to === 'place' ? null : (to ?? null) })}
				small
				class="w-auto"
			/></label
		>
		<Checkbox bind:checked={standards}>standards</Checkbox>
		<Checkbox checked={legend} onchange={(on) => address.set({ legend: on ? 'on' : null })}>legend</Checkbox>
		<span class="ml-auto flex items-center gap-1"
			><span role="status">{told || (opened ? '' : 'click a cell, a student, an item')}</span><Button
				kind="quiet"
				class="min-h-[26px]"
				onclick={copy}>Copy</Button
			><Button kind="quiet" class="min-h-[26px]" href={file('csv')} download>CSV</Button><Button
				kind="quiet"
				class="min-h-[26px]"
				href={file('xlsx')}
				download>XLSX</Button
			></span
		>{#if under.size}<MakeGroup
				people={[...under].map((at) => data?.students[at]?.person ?? '').filter(Boolean)}
				name="Under {percent(line)}"
				label="Group of the {under.size} under {percent(line)}"
			/>{/if}
	</div>
	{#if legend}
		<div
			class="sheet mb-2 flex flex-wrap items-center gap-x-5 gap-y-1 px-3 py-2 text-[12.5px]"
			role="group"
			aria-label="Legend"
		>
			<span class="key"><i></i>right</span>
			{#each letters as l, at (l)}<span class="key"
					><i class="text-center text-white" style:background={hue(at)}>{l}</i></span
				>{/each}<span>chose this, incorrect</span>
			<span class="key"
				><i style:background="linear-gradient(to top, var(--color-white) 50%, var(--color-relief3) 0)"></i>partial
				credit</span
			>
			<span class="key"><i><b class="absolute inset-[4px_5px] border border-ink2"></b></i>omitted</span>
			<span class="key"
				><i
					style:background="repeating-linear-gradient(45deg, var(--color-white) 0 3px, var(--color-edge-soft) 3px 4.5px)"
				></i>not reached</span
			>
			<span class="key"><i style:background="var(--color-paper)"></i>not on this form</span>
			<span class="key"
				><i><b class="absolute top-0 right-0 border-t-[9px] border-l-[9px] border-t-ink border-l-transparent"></b></i
				>unexpected</span
			>
			<span class="key"
				><i class="border-0" style:background="var(--color-relief1)" style:width="4px"></i>under the watch line</span
			>
		</div>
	{/if}
	<div class="flex flex-col gap-3 min-[1500px]:flex-row min-[1500px]:items-start">
		<Panel class="min-w-0 min-[1500px]:flex-1">
			{#if rows.length && answers}
				<Grid
					maxHeight={opened ? 'max(220px, calc(100vh - 380px))' : undefined}
					label="Answers, {rows.length} students by {columns.length} items"
					rows={rows.length}
					columns={columns.length}
					columnWidth={columns.length > 27 ? 24 : 30}
					head={{ width: several ? 258 : 218, height: standards ? 116 : 46 }}
					says={(r, c) => answers.says(rows[r] ?? 0, columns[c] ?? 0)}
					onopen={open}
					painted={[answers, rows, columns]}
					paint={(on, r, c, w, h) => paintAnswer(on, answers, rows[r] ?? 0, columns[c] ?? 0, w, h)}
				>
					{#snippet corner()}<span class="flex h-full items-end gap-2 px-2 pb-1 text-ink2"
							><span class="flex-1">Student</span>{#if several}<span class="w-[44px]">Class</span>{/if}<span
								class="w-[50px] text-right">Points</span
							></span
						>{/snippet}
					{#snippet columnHead(c)}
						{@const item = itemAt(columns[c] ?? 0)}
						<span class="flex h-full flex-col justify-end">
							{#if standards}<span
									class="small mx-auto h-[66px] overflow-hidden text-[10.5px] leading-[28px] whitespace-nowrap [writing-mode:sideways-lr]"
									>{(item.standards[0] ?? '').replace(/^[A-Z]+-/, '')}</span
								>{/if}
							<b
								class="font-semibold {opened?.item === columns[c] ? 'text-petrol underline' : ''}"
								title="{item.item}: {percent(item.p)} correct{item.surprises ? `, ${item.surprises} unexpected` : ''}"
								>{item.number}</b
							>
							<span class="mx-[3px] mb-1 h-[7px]" style:background={reliefColor(item.p)}></span>
						</span>
					{/snippet}
					{#snippet rowHead(r)}
						{@const at = rows[r] ?? 0}
						{@const s = data.students[at]}
						<span class="-ml-2 flex gap-2 {under.has(at) ? 'border-l-4 border-relief1 pl-1' : 'pl-2'}"
							><span
								class="min-w-0 flex-1 truncate {opened?.student === at ? 'font-semibold text-petrol' : ''}"
								title={s && s.fit < -2 ? 'an unusual pattern' : undefined}>{name(at)}{s && s.fit < -2 ? ' ◆' : ''}</span
							>{#if several}<span class="w-[44px] truncate text-ink2">{s?.klass.replace(/^.* /, '')}</span>{/if}<span
								class="n w-[50px]">{s?.share === null ? '–' : s?.earned}</span
							></span
						>
					{/snippet}
				</Grid>
			{:else}<p class="p-4 text-ink2">
					{data.of
						? 'Their figures are in the overview; their answers by name are not yours to see.'
						: 'Answers appear here once students have submitted.'}
				</p>{/if}
		</Panel>
		{#if opened}
			<aside
				class="sheet relative flex gap-6 p-3 pr-10 text-[13.5px] min-[1500px]:w-[280px] min-[1500px]:flex-none min-[1500px]:flex-col min-[1500px]:gap-0"
				aria-label="What is opened"
				aria-live="polite"
			>
				<Button
					kind="quiet"
					class="!absolute top-2 right-2 min-h-[24px] px-1.5"
					aria-label="Close"
					onclick={() => (opened = null)}>×</Button
				>
				{#if chosenStudent}
					<div class="min-w-0 flex-1">
						<h2>{name(opened.student)}</h2>
						<p class="small">
							{chosenStudent.klass}{several && data.students.some((s) => s.form !== chosenStudent?.form)
								? `, ${chosenStudent.form}`
								: ''}
						</p>
						<p class="my-1">
							{chosenStudent.share === null
								? 'An answer awaits its score, so there is no total.'
								: `${chosenStudent.earned} of ${chosenStudent.possible} points, ${percent(chosenStudent.share)}`}{chosenStudent.rank ===
							null
								? ''
								: `; above ${Math.round(chosenStudent.rank)}% of those counted`}.
						</p>
						<p class="my-1">{sentence}</p>
						<div class="mt-1 flex flex-wrap gap-1.5">
							<Button
								class="min-h-[26px]"
								href="/sessions/tests/{chosenStudent.sitting}{chosenItem ? `?item=${chosenItem.number}` : ''}"
								>Whole test</Button
							>
							{#if staff.may('people.read')}<Button class="min-h-[26px]" href="/people/{chosenStudent.person}"
									>The student</Button
								>{/if}<Button
								kind="quiet"
								class="min-h-[26px]"
								href={address.href('/quality/look/reports', { student: chosenStudent.person })}>A report</Button
							>
						</div>
					</div>
				{/if}
				{#if chosenItem}
					<div
						class="min-w-0 flex-1 {chosenStudent
							? 'min-[1500px]:mt-3 min-[1500px]:border-t min-[1500px]:border-hair min-[1500px]:pt-3'
							: ''}"
					>
						<div class="flex items-baseline gap-2">
							<h2 class="flex-1">Item {chosenItem.number}</h2>
							<StandardCode code={chosenItem.standards[0] ?? ''} />
						</div>
						{#if onCell && answers}<p class="my-1">
								Answered: <b class="font-semibold">{answers.text(opened.student, opened.item)}</b>; key {chosenItem.key ||
									'hand-scored'}.
							</p>{/if}
						{#if opened.student < 0}<p class="my-1">{chosenItem.says}</p>{/if}
						<p class="small my-1">{percent(chosenItem.p)} correct.</p>
						<div class="flex flex-wrap gap-1.5">
							<Button class="min-h-[26px]" href={address.href('/quality/look/item', { item: chosenItem.item })}
								>Open the item</Button
							><Button kind="quiet" class="min-h-[26px]" onclick={() => address.set({ sort: chosenItem?.item ?? null })}
								>Students by it</Button
							>
						</div>
					</div>
				{/if}
			</aside>
		{/if}
	</div>
{/if}

<style>
	.key {
		display: inline-flex;
		align-items: center;
		gap: 6px;
	}
	.key i {
		position: relative;
		display: inline-block;
		width: 22px;
		height: 18px;
		border: 1px solid var(--color-hair);
		font-style: normal;
		font-weight: 600;
		font-size: 11.5px;
		line-height: 17px;
	}
</style>
