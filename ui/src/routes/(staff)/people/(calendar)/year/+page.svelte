<script lang="ts">
	import { goto } from '$app/navigation';
	import { api } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import PreviewLines from '$lib/parts/PreviewLines.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, decimal } from '$lib/words/show';
	import YearWeeks from './YearWeeks.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<svelte:head><title>School year · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">
		{shown.data?.finding ?? (shown.none ? 'No school year yet. It comes with the roster, or is set here.' : '')}
	</h1>
	{#if shown.data && shown.data.years.length > 1}
		<select
			class="input !mt-0 !w-auto"
			aria-label="School year"
			value={shown.data.year_id}
			onchange={(e) => goto(`?year=${e.currentTarget.value}`).then(shown.load)}
		>
			{#each shown.data.years as y (y.id)}<option value={y.id}>{y.name}</option>{/each}
		</select>
	{/if}
	{#if staff.may('years.write')}
		{#if shown.data}<button
				class="btn"
				onclick={() =>
					shown.data &&
					(shown.yearForm = {
						id: shown.data.year_id,
						title: shown.data.title,
						start: shown.data.start,
						end: shown.data.end,
						weekdays: [...shown.data.weekdays]
					})}>Change the year</button
			>
			<button class="btn" onclick={shown.begin}>Into the next year</button>
		{:else if shown.none}<button
				class="btn primary"
				onclick={() =>
					(shown.yearForm = {
						id: null,
						title: '',
						start: '',
						end: '',
						weekdays: [true, true, true, true, true, false, false]
					})}>Set a school year</button
			>{/if}
	{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.yearForm}
	<form class="sheet mb-3 flex flex-wrap items-end gap-3 p-4" onsubmit={shown.saveYear}>
		<label class="field w-32">Title<input class="input" bind:value={shown.yearForm.title} required /></label>
		<label class="field">First day<input class="input" type="date" bind:value={shown.yearForm.start} required /></label>
		<label class="field">Last day<input class="input" type="date" bind:value={shown.yearForm.end} required /></label>
		<fieldset class="flex gap-3 text-[13.5px]">
			<legend class="small">Days with lessons</legend>{#each shown.DAYS as d, at (d)}<label
					class="flex min-h-8 items-center gap-1"
					><input type="checkbox" class="size-5" bind:checked={shown.yearForm.weekdays[at]} />{d}</label
				>{/each}
		</fieldset>
		<button class="btn primary">Keep</button><button type="button" class="btn" onclick={() => (shown.yearForm = null)}
			>Leave it</button
		>
	</form>
{/if}
{#if shown.roll}
	<section class="sheet mb-3 p-4" aria-label="Into the next year">
		<h2>Into the next year</h2>
		<p class="small mb-2">
			Everybody moves up a grade, each class moves into the class of the next grade and finds its teacher, the lowest
			grade's classes are formed empty, the highest grade leaves. Results stay. Where the school's records bring the new
			year by themselves, this is not needed.
		</p>
		<form class="flex flex-wrap items-end gap-3" onsubmit={shown.look}>
			<label class="field w-28">Title<input class="input" bind:value={shown.roll.title} required /></label>
			<label class="field">First day<input class="input" type="date" bind:value={shown.roll.start} required /></label>
			<label class="field">Last day<input class="input" type="date" bind:value={shown.roll.end} required /></label>
			<label class="field min-w-[240px] flex-1"
				>Who repeats the grade, by number or own code<input class="input" bind:value={shown.roll.stay} /></label
			>
			<button class="btn primary">See what it would do</button><button
				type="button"
				class="btn"
				onclick={() => ((shown.roll = null), (shown.preview = null))}>Leave it</button
			>
		</form>
		{#if shown.preview}
			<div class="mt-3 flex items-center gap-3 border-t border-hair pt-3">
				<h2 class="flex-1">{shown.preview.applied ? 'Done. The new year is here.' : 'This is what it would do.'}</h2>
				{#if !shown.preview.applied}<Ask
						label="Move everybody up"
						question="Classes of this year are set aside; they stay open to those who taught them. It cannot be taken back in one step."
						yes="Move everybody up"
						onyes={shown.apply}
					/>{/if}
			</div>
			<PreviewLines counts={shown.preview.counts} lines={shown.preview.lines} applied={shown.preview.applied} />
		{/if}
	</section>
{/if}
{#if shown.data}
	<section class="sheet mb-3 px-4 pt-3 pb-2" aria-label="The year by weeks">
		<YearWeeks year={shown.data} />
	</section>
	<div class="grid grid-cols-2 items-start gap-3">
		<section class="sheet" aria-label="Windows">
			<div class="flex items-center border-b border-hair px-4 py-1.5">
				<h2 class="flex-1">Windows</h2>
				{#if shown.data.may_change}<button
						class="btn quiet"
						onclick={() => (shown.windowForm = { id: '', name: '', start: '', end: '' })}>Add one</button
					>{/if}
			</div>
			{#if shown.windowForm}
				<form class="flex flex-wrap items-end gap-2 border-b border-hair bg-wash p-3" onsubmit={shown.saveWindow}>
					<label class="field w-28">Name<input class="input" bind:value={shown.windowForm.name} required /></label>
					<label class="field"
						>First day<input class="input" type="date" bind:value={shown.windowForm.start} required /></label
					>
					<label class="field"
						>Last day<input class="input" type="date" bind:value={shown.windowForm.end} required /></label
					>
					<button class="btn primary">Keep</button><button
						type="button"
						class="btn"
						onclick={() => (shown.windowForm = null)}>Leave it</button
					>
				</form>
			{/if}
			<table>
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
							><td>{w.name}</td><td class="whitespace-nowrap">{day(w.start).replace(/ \d{4}$/, '')}</td><td
								class="whitespace-nowrap">{day(w.end).replace(/ \d{4}$/, '')}</td
							><td class="n">{w.days}</td><td class="n">{decimal(w.weeks_before)}</td><td class="n">{w.sessions}</td>
							<td class="n"
								>{#if shown.data.may_change}<button
										class="btn quiet"
										aria-label="Change the window {w.name}"
										onclick={() => (shown.windowForm = { id: w.id, name: w.name, start: w.start, end: w.end })}
										>Change</button
									>{/if}</td
							></tr
						>
					{:else}<tr><td colspan="7" class="text-ink2">No window is set in this year.</td></tr>{/each}
				</tbody>
			</table>
		</section>
		<section class="sheet" aria-label="Closed days">
			<h2 class="border-b border-hair px-4 py-2.5">
				Closed days <span class="small font-normal">{shown.data.counted.closed} days that would have had lessons</span>
			</h2>
			<table>
				<tbody>
					{#each shown.data.closed as c (c.id)}
						<tr
							><td>{c.name}</td><td>{day(c.start)}{c.end !== c.start ? ` to ${day(c.end)}` : ''}</td><td>{c.school}</td>
							<td class="n"
								>{#if shown.data.may_change}<Ask
										quiet
										label="Take back"
										question="Lessons are held from {day(c.start)} to {day(c.end)} after all?"
										yes="Take it back"
										onyes={() =>
											shown.go(api.DELETE('/api/year/closed/{closed_id}', { params: { path: { closed_id: c.id } } }))}
									/>{/if}</td
							></tr
						>
					{:else}<tr><td class="text-ink2">None yet. Breaks and holidays make instructional weeks right.</td></tr
						>{/each}
				</tbody>
			</table>
			{#if shown.data.may_change}
				<form class="flex flex-wrap items-end gap-2 border-t border-hair p-3" onsubmit={shown.addClosed}>
					<label class="field w-36"
						>What<input class="input" bind:value={shown.closed.name} maxlength="60" required /></label
					>
					<label class="field"
						>First day<input class="input" type="date" bind:value={shown.closed.start} required /></label
					>
					<label class="field">Last day<input class="input" type="date" bind:value={shown.closed.end} /></label>
					<label class="field"
						>Where<select class="input" bind:value={shown.closed.school_id}
							><option value="">all schools</option>{#each shown.data.schools as s (s.id)}<option value={s.id}
									>{s.name}</option
								>{/each}</select
						></label
					>
					<button class="btn">Close these days</button>
				</form>
			{/if}
		</section>
	</div>
{/if}
