<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import { api } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import PreviewLines from '$lib/parts/PreviewLines.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, decimal, shortDay } from '$lib/words/show';
	import YearWeeks from './YearWeeks.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="mb-3 flex items-start gap-3">
	<Finding of="School year" class="flex-1">
		{shown.data?.finding ?? (shown.none ? 'No school year yet. It comes with the roster, or is set here.' : '')}
	</Finding>
	{#if shown.data && shown.data.years.length > 1}
		<Select
			label="School year"
			choices={shown.data.years.map((y) => ({ value: y.id, label: y.name }))}
			value={shown.data.year_id}
			onchange={(to) => goto(`?year=${to}`).then(shown.load)}
			class="mt-0 w-auto"
		/>
	{/if}
	{#if staff.may('years.write')}
		{#if shown.data}<Button
				onclick={() =>
					shown.data &&
					(shown.yearForm = {
						id: shown.data.year_id,
						title: shown.data.title,
						start: shown.data.start,
						end: shown.data.end,
						weekdays: [...shown.data.weekdays]
					})}>Edit year</Button
			>
			<Button onclick={shown.begin}>Roll over to next year</Button>
		{:else if shown.none}<Button
				kind="primary"
				onclick={() =>
					(shown.yearForm = {
						id: null,
						title: '',
						start: '',
						end: '',
						weekdays: [true, true, true, true, true, false, false]
					})}>Add school year</Button
			>{/if}
	{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.yearForm}
	<form class="sheet mb-3 flex flex-wrap items-end gap-3 p-4" onsubmit={shown.saveYear}>
		<label class="field w-32">Title<input class="input" bind:value={shown.yearForm.title} required /></label>
		<DateField label="First day" bind:value={shown.yearForm.start} required />
		<DateField label="Last day" bind:value={shown.yearForm.end} required />
		<fieldset class="flex gap-3 text-[13.5px]">
			<legend class="small">School days</legend>{#each shown.DAYS as d, at (d)}<Checkbox
					bind:checked={shown.yearForm.weekdays[at]}>{d}</Checkbox
				>{/each}
		</fieldset>
		<Button type="submit" kind="primary">Save</Button><Button onclick={() => (shown.yearForm = null)}>Cancel</Button>
	</form>
{/if}
{#if shown.roll}
	<Panel label="Roll over to next year" headed class="mb-3 p-4">
		<p class="small mb-2">
			All students move up a grade: each class becomes the class of the next grade with its teacher, the lowest grade's
			classes start empty, and the highest grade leaves. Results stay. You do not need this if your records system
			brings the new year.
		</p>
		<form class="flex flex-wrap items-end gap-3" onsubmit={shown.look}>
			<label class="field w-28">Title<input class="input" bind:value={shown.roll.title} required /></label>
			<DateField label="First day" bind:value={shown.roll.start} required />
			<DateField label="Last day" bind:value={shown.roll.end} required />
			<label class="field min-w-[240px] flex-1"
				>Retained students, by number or sign-in code<input class="input" bind:value={shown.roll.stay} /></label
			>
			<Button type="submit" kind="primary">Preview</Button><Button
				onclick={() => ((shown.roll = null), (shown.preview = null))}>Cancel</Button
			>
		</form>
		{#if shown.preview}
			<div class="mt-3 flex items-center gap-3 border-t border-hair pt-3">
				<h2 class="flex-1">
					{shown.preview.applied ? 'Done. The new year is here.' : 'Preview: nothing has been changed yet.'}
				</h2>
				{#if !shown.preview.applied}<Ask
						label="Promote students"
						question="This year's classes are archived; their teachers can still open them. This cannot be undone in one step."
						yes="Promote students"
						onyes={shown.apply}
					/>{/if}
			</div>
			<PreviewLines counts={shown.preview.counts} lines={shown.preview.lines} applied={shown.preview.applied} />
		{/if}
	</Panel>
{/if}
{#if shown.data}
	<Panel label="The year by weeks" class="mb-3 px-4 pt-3 pb-2">
		<YearWeeks year={shown.data} />
	</Panel>
	<div class="grid grid-cols-2 items-start gap-3">
		<Panel label="Windows">
			<div class="flex items-center border-b border-hair px-4 py-1.5">
				<h2 class="flex-1">Windows</h2>
				{#if shown.data.may_change}<Button
						kind="quiet"
						onclick={() => (shown.windowForm = { id: '', name: '', start: '', end: '' })}>Add window</Button
					>{#if shown.data.windows.length}<Button kind="quiet" onclick={() => shown.copyWindows()}
							>Copy to next year</Button
						>{/if}{/if}
			</div>
			{#if shown.windowForm}
				<form class="flex flex-wrap items-end gap-2 border-b border-hair bg-wash p-3" onsubmit={shown.saveWindow}>
					<label class="field w-28">Name<input class="input" bind:value={shown.windowForm.name} required /></label>
					<DateField label="First day" bind:value={shown.windowForm.start} required />
					<DateField label="Last day" bind:value={shown.windowForm.end} required />
					<Button type="submit" kind="primary">Save</Button><Button onclick={() => (shown.windowForm = null)}
						>Cancel</Button
					>
				</form>
			{/if}
			<Table>
				<thead
					><tr
						><th>Window</th><th>From</th><th>To</th><th class="n">School days</th><th
							class="n"
							title="Weeks of instruction from the first day of the year">Weeks before</th
						><th class="n">Sessions</th><th></th></tr
					></thead
				>
				<tbody>
					{#each shown.data.windows as w (w.id)}
						<tr
							><td>{w.name}</td><td class="whitespace-nowrap">{shortDay(w.start)}</td><td class="whitespace-nowrap"
								>{shortDay(w.end)}</td
							><td class="n">{w.days}</td><td class="n">{decimal(w.weeks_before)}</td><td class="n">{w.sessions}</td>
							<td class="n"
								>{#if shown.data.may_change}<Button
										kind="quiet"
										aria-label="Edit window {w.name}"
										onclick={() => (shown.windowForm = { id: w.id, name: w.name, start: w.start, end: w.end })}
										>Edit</Button
									>{/if}</td
							></tr
						>
					{:else}<tr><td colspan="7" class="text-ink2">No testing windows in this year.</td></tr>{/each}
				</tbody>
			</Table>
		</Panel>
		<Panel label="Closed days">
			<h2 class="border-b border-hair px-4 py-2.5">
				Closed days <span class="small font-normal">{shown.data.counted.closed} school days closed</span>
			</h2>
			<Table>
				<tbody>
					{#each shown.data.closed as c (c.id)}
						<tr
							><td>{c.name}</td><td>{day(c.start)}{c.end !== c.start ? ` to ${day(c.end)}` : ''}</td><td>{c.school}</td>
							<td class="n"
								>{#if shown.data.may_change}<Ask
										quiet
										label="Delete"
										question="Delete the closure from {day(c.start)} to {day(c.end)}?"
										yes="Delete"
										onyes={() =>
											shown.go(api.DELETE('/api/year/closed/{closed_id}', { params: { path: { closed_id: c.id } } }))}
									/>{/if}</td
							></tr
						>
					{:else}<tr
							><td class="text-ink2"
								>None yet. Add breaks and holidays so that instructional weeks are counted correctly.</td
							></tr
						>{/each}
				</tbody>
			</Table>
			{#if shown.data.may_change}
				<form class="flex flex-wrap items-end gap-2 border-t border-hair p-3" onsubmit={shown.addClosed}>
					<label class="field w-36"
						>What<input class="input" bind:value={shown.closed.name} maxlength="60" required /></label
					>
					<DateField label="First day" bind:value={shown.closed.start} required />
					<DateField label="Last day" bind:value={shown.closed.end} />
					<label class="field"
						>Where<Select
							bind:value={shown.closed.school_id}
							choices={[
								{ value: '', label: 'all schools' },
								...shown.data.schools.map((s) => ({ value: s.id, label: s.name }))
							]}
						/></label
					>
					<Button type="submit">Add closure</Button>
				</form>
			{/if}
		</Panel>
	</div>
{/if}
