<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import PreviewLines from '$lib/parts/PreviewLines.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, decimal } from '$lib/words/show';
	import YearWeeks from './YearWeeks.svelte';

	/** The school year: its days of instruction, closed days and windows; and the step into the next one. */
	let data = $state<Schemas['YearPage'] | null>(null);
	let none = $state(false);
	let problem = $state('');
	let closed = $state({ name: '', start: '', end: '', school_id: '' });
	let windowForm = $state<{ id: string; name: string; start: string; end: string } | null>(null);
	let yearForm = $state<{ id: string | null; title: string; start: string; end: string; weekdays: boolean[] } | null>(
		null
	);
	let roll = $state<{ title: string; start: string; end: string; stay: string } | null>(null);
	let preview = $state<Schemas['Preview'] | null>(null);
	const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

	onMount(load);
	async function load() {
		const year = page.url.searchParams.get('year') ?? undefined;
		try {
			data = await body(api.GET('/api/year', { params: { query: { year } } }));
			none = data === null;
		} catch (error) {
			problem = said(error);
		}
	}
	async function go(work: Promise<unknown>, after?: () => void) {
		problem = '';
		try {
			await work;
			after?.();
			await load();
			await staff.loadCalendar();
		} catch (error) {
			problem = said(error);
		}
	}
	const iso = (text: string, years: number) => `${Number(text.slice(0, 4)) + years}${text.slice(4)}`;
	const addClosed = (event: SubmitEvent) => {
		event.preventDefault();
		void go(
			api.POST('/api/year/closed', {
				body: { ...closed, end: closed.end || closed.start, school_id: closed.school_id || null }
			}),
			() => (closed = { name: '', start: '', end: '', school_id: '' })
		);
	};
	const saveWindow = (event: SubmitEvent) => {
		event.preventDefault();
		if (!windowForm) return;
		const { id, ...values } = windowForm;
		const work = id
			? api.PUT('/api/year/windows/{window_id}', { params: { path: { window_id: id } }, body: values })
			: api.POST('/api/windows', { body: values });
		void go(work, () => (windowForm = null));
	};
	const saveYear = (event: SubmitEvent) => {
		event.preventDefault();
		if (!yearForm) return;
		const { id, ...values } = yearForm;
		void go(
			id
				? api.PUT('/api/year/{year_id}', { params: { path: { year_id: id } }, body: values })
				: api.POST('/api/year', { body: values }),
			() => (yearForm = null)
		);
	};
	function begin() {
		if (!data) return;
		const start = iso(data.start, 1);
		roll = {
			title: `${start.slice(0, 4)}/${String(Number(start.slice(2, 4)) + 1).padStart(2, '0')}`,
			start,
			end: iso(data.end, 1),
			stay: ''
		};
		preview = null;
	}
	async function look(event: SubmitEvent) {
		event.preventDefault();
		if (!roll) return;
		problem = '';
		try {
			const stay = roll.stay.split(/[\s,;]+/).filter(Boolean);
			preview = await body(api.POST('/api/people/rollover', { body: { ...roll, stay } }));
		} catch (error) {
			problem = said(error);
		}
	}
	const apply = () =>
		go(
			api
				.POST('/api/people/rollover/{import_id}/apply', {
					params: { path: { import_id: preview?.id ?? '' } },
					body: { yes: true }
				})
				.then((a) => (preview = a.data ?? null))
		);
</script>

<svelte:head><title>School year · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">
		{data?.finding ?? (none ? 'No school year yet. It comes with the roster, or is set here.' : '')}
	</h1>
	{#if data && data.years.length > 1}
		<select
			class="input !mt-0 !w-auto"
			aria-label="School year"
			value={data.year_id}
			onchange={(e) => goto(`?year=${e.currentTarget.value}`).then(load)}
		>
			{#each data.years as y (y.id)}<option value={y.id}>{y.name}</option>{/each}
		</select>
	{/if}
	{#if staff.may('years.write')}
		{#if data}<button
				class="btn"
				onclick={() =>
					data &&
					(yearForm = {
						id: data.year_id,
						title: data.title,
						start: data.start,
						end: data.end,
						weekdays: [...data.weekdays]
					})}>Change the year</button
			>
			<button class="btn" onclick={begin}>Into the next year</button>
		{:else if none}<button
				class="btn primary"
				onclick={() =>
					(yearForm = {
						id: null,
						title: '',
						start: '',
						end: '',
						weekdays: [true, true, true, true, true, false, false]
					})}>Set a school year</button
			>{/if}
	{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if yearForm}
	<form class="sheet mb-3 flex flex-wrap items-end gap-3 p-4" onsubmit={saveYear}>
		<label class="field w-32">Title<input class="input" bind:value={yearForm.title} required /></label>
		<label class="field">First day<input class="input" type="date" bind:value={yearForm.start} required /></label>
		<label class="field">Last day<input class="input" type="date" bind:value={yearForm.end} required /></label>
		<fieldset class="flex gap-3 text-[13.5px]">
			<legend class="small">Days with lessons</legend>{#each DAYS as d, at (d)}<label
					class="flex min-h-8 items-center gap-1"
					><input type="checkbox" class="size-5" bind:checked={yearForm.weekdays[at]} />{d}</label
				>{/each}
		</fieldset>
		<button class="btn primary">Keep</button><button type="button" class="btn" onclick={() => (yearForm = null)}
			>Leave it</button
		>
	</form>
{/if}
{#if roll}
	<section class="sheet mb-3 p-4" aria-label="Into the next year">
		<h2>Into the next year</h2>
		<p class="small mb-2">
			Everybody moves up a grade, each class moves into the class of the next grade and finds its teacher, the lowest
			grade's classes are formed empty, the highest grade leaves. Results stay. Where the school's records bring the new
			year by themselves, this is not needed.
		</p>
		<form class="flex flex-wrap items-end gap-3" onsubmit={look}>
			<label class="field w-28">Title<input class="input" bind:value={roll.title} required /></label>
			<label class="field">First day<input class="input" type="date" bind:value={roll.start} required /></label>
			<label class="field">Last day<input class="input" type="date" bind:value={roll.end} required /></label>
			<label class="field min-w-[240px] flex-1"
				>Who repeats the grade, by number or own code<input class="input" bind:value={roll.stay} /></label
			>
			<button class="btn primary">See what it would do</button><button
				type="button"
				class="btn"
				onclick={() => ((roll = null), (preview = null))}>Leave it</button
			>
		</form>
		{#if preview}
			<div class="mt-3 flex items-center gap-3 border-t border-hair pt-3">
				<h2 class="flex-1">{preview.applied ? 'Done. The new year is here.' : 'This is what it would do.'}</h2>
				{#if !preview.applied}<Ask
						label="Move everybody up"
						question="Classes of this year are set aside; they stay open to those who taught them. It cannot be taken back in one step."
						yes="Move everybody up"
						onyes={apply}
					/>{/if}
			</div>
			<PreviewLines counts={preview.counts} lines={preview.lines} applied={preview.applied} />
		{/if}
	</section>
{/if}
{#if data}
	<section class="sheet mb-3 px-4 pt-3 pb-2" aria-label="The year by weeks">
		<YearWeeks year={data} />
	</section>
	<div class="grid grid-cols-2 items-start gap-3">
		<section class="sheet" aria-label="Windows">
			<div class="flex items-center border-b border-hair px-4 py-1.5">
				<h2 class="flex-1">Windows</h2>
				{#if data.may_change}<button
						class="btn quiet"
						onclick={() => (windowForm = { id: '', name: '', start: '', end: '' })}>Add one</button
					>{/if}
			</div>
			{#if windowForm}
				<form class="flex flex-wrap items-end gap-2 border-b border-hair bg-wash p-3" onsubmit={saveWindow}>
					<label class="field w-28">Name<input class="input" bind:value={windowForm.name} required /></label>
					<label class="field"
						>First day<input class="input" type="date" bind:value={windowForm.start} required /></label
					>
					<label class="field">Last day<input class="input" type="date" bind:value={windowForm.end} required /></label>
					<button class="btn primary">Keep</button><button type="button" class="btn" onclick={() => (windowForm = null)}
						>Leave it</button
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
					{#each data.windows as w (w.id)}
						<tr
							><td>{w.name}</td><td class="whitespace-nowrap">{day(w.start).replace(/ \d{4}$/, '')}</td><td
								class="whitespace-nowrap">{day(w.end).replace(/ \d{4}$/, '')}</td
							><td class="n">{w.days}</td><td class="n">{decimal(w.weeks_before)}</td><td class="n">{w.sessions}</td>
							<td class="n"
								>{#if data.may_change}<button
										class="btn quiet"
										aria-label="Change the window {w.name}"
										onclick={() => (windowForm = { id: w.id, name: w.name, start: w.start, end: w.end })}>Change</button
									>{/if}</td
							></tr
						>
					{:else}<tr><td colspan="7" class="text-ink2">No window is set in this year.</td></tr>{/each}
				</tbody>
			</table>
		</section>
		<section class="sheet" aria-label="Closed days">
			<h2 class="border-b border-hair px-4 py-2.5">
				Closed days <span class="small font-normal">{data.counted.closed} days that would have had lessons</span>
			</h2>
			<table>
				<tbody>
					{#each data.closed as c (c.id)}
						<tr
							><td>{c.name}</td><td>{day(c.start)}{c.end !== c.start ? ` to ${day(c.end)}` : ''}</td><td>{c.school}</td>
							<td class="n"
								>{#if data.may_change}<Ask
										quiet
										label="Take back"
										question="Lessons are held from {day(c.start)} to {day(c.end)} after all?"
										yes="Take it back"
										onyes={() =>
											go(api.DELETE('/api/year/closed/{closed_id}', { params: { path: { closed_id: c.id } } }))}
									/>{/if}</td
							></tr
						>
					{:else}<tr><td class="text-ink2">None yet. Breaks and holidays make instructional weeks right.</td></tr
						>{/each}
				</tbody>
			</table>
			{#if data.may_change}
				<form class="flex flex-wrap items-end gap-2 border-t border-hair p-3" onsubmit={addClosed}>
					<label class="field w-36">What<input class="input" bind:value={closed.name} maxlength="60" required /></label>
					<label class="field">First day<input class="input" type="date" bind:value={closed.start} required /></label>
					<label class="field">Last day<input class="input" type="date" bind:value={closed.end} /></label>
					<label class="field"
						>Where<select class="input" bind:value={closed.school_id}
							><option value="">all schools</option>{#each data.schools as s (s.id)}<option value={s.id}
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
