<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { goto, invalidate } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import SittingBar from '$lib/parts/SittingBar.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, day, time } from '$lib/words/show';
	import CancelDialog from './CancelDialog.svelte';
	import ChangeDialog from './ChangeDialog.svelte';
	import PlanForm from './PlanForm.svelte';
	import Standing from './Standing.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import type { PageProps } from './$types';

	let { data: loaded }: PageProps = $props();
	const data = $derived(loaded.found);
	let problem = $derived(loaded.problem);
	let made = $state('');

	const chosen = $derived(staff.window(page.url.searchParams.get('window')));
	const planning = $derived(page.url.searchParams.get('plan'));
	const zone = $derived(staff.calendar?.zone ?? 'UTC');

	function plan(on: boolean) {
		const url = new URL(page.url);
		if (on) url.searchParams.set('plan', 'new');
		else url.searchParams.delete('plan');
		void goto(url, { replaceState: true, noScroll: true });
	}

	async function planned(ids: string[], windowId: string) {
		made = ids.length === 1 ? 'Session scheduled. Its code is in the list.' : `${ids.length} sessions scheduled.`;
		const url = new URL(page.url);
		url.searchParams.delete('plan');
		url.searchParams.set('window', windowId);
		await goto(url, { replaceState: true });
		await invalidate('bildung:sessions');
	}
	let chosenIds = $state<string[]>([]);
	let changing = $state(false);
	let canceling = $state(false);
	let text = $state('');
	const plans = $derived(staff.may('sessions.plan'));
	const lines = $derived(
		(data?.sessions ?? []).filter((s) =>
			[s.klass, s.form, s.room, s.proctor, s.school, s.phase].some((w) => w.toLowerCase().includes(text.toLowerCase()))
		)
	);
	const changeable = $derived(lines.filter((s) => s.may_plan && (s.phase === 'open' || s.phase === 'ahead')));
	const selected = $derived((data?.sessions ?? []).filter((s) => chosenIds.includes(s.id)));
	const PHASES = { open: 'open now', ahead: 'upcoming', closed: 'closed', canceled: 'canceled' };

	async function changed() {
		made = `${selected.length} ${selected.length === 1 ? 'session' : 'sessions'} changed.`;
		chosenIds = [];
		await invalidate('bildung:sessions');
	}
	const behind = (of: string, session?: string) =>
		body(
			api.GET('/api/sessions/whose', { params: { query: { of, session, window: session ? undefined : chosen?.id } } })
		);
</script>

<svelte:head><title>Sessions · Bildung</title></svelte:head>

<div class="small mb-1">{chosen ? `${chosen.name}, ${day(chosen.start)} to ${day(chosen.end)}` : ''}</div>
<div class="mb-3 flex items-start gap-4">
	<h1 class="flex-1">{data?.finding ?? ''}</h1>
	{#if staff.may('sessions.plan')}<button class="btn" aria-expanded={!!planning} onclick={() => plan(!planning)}
			>Schedule sessions</button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if made}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{made}</p>{/if}
{#if planning}<PlanForm
		form={planning === 'new' ? '' : planning}
		window={chosen?.id ?? ''}
		onplanned={planned}
		onleave={() => plan(false)}
	/>{/if}
{#if data?.participation?.whole.owed && chosen}<Standing of={data.participation} window={chosen.id} />{/if}
{#if data?.sessions.length}
	<div class="mb-2 flex min-h-[38px] items-center gap-3">
		<label class="field flex items-center gap-2"
			><span class="sr-only">Filter</span><input
				class="input bare w-[260px]"
				type="search"
				placeholder="Filter by class, form, room, proctor"
				bind:value={text}
			/></label
		>
		{#if text}<span class="small">{lines.length} of {data.sessions.length}</span>{/if}
		{#if selected.length}
			<span class="ml-auto text-[14px] font-semibold">{selected.length} selected</span>
			<button class="btn" onclick={() => (changing = true)}>Edit</button>
			<button class="btn" onclick={() => (canceling = true)}>Cancel sessions</button>
			<button class="btn quiet" onclick={() => (chosenIds = [])}>Clear</button>
		{/if}
	</div>
	<section {@attach scrollable} class="sheet frozen max-h-[calc(100vh-150px)]">
		<table>
			<thead
				><tr
					>{#if plans}<th class="w-8"
							>{#if changeable.length}<Checkbox
									label="Select all that can be changed"
									bind:checked={
										() => changeable.length > 0 && changeable.every((s) => chosenIds.includes(s.id)),
										(on) => (chosenIds = on ? changeable.map((s) => s.id) : [])
									}
								/>{/if}</th
						>{/if}<th>Class</th><th>Form</th><th>When</th><th>Room</th><th>Proctor</th><th>Code</th><th>Attempts</th><th
						>State</th
					></tr
				></thead
			>
			<tbody>
				{#each lines as s (s.id)}
					<tr tabindex="-1" data-row onclick={() => goto(`/sessions/${s.id}?window=${s.window_id}`)}>
						{#if plans}<td onclick={(e) => e.stopPropagation()}
								>{#if s.may_plan && (s.phase === 'open' || s.phase === 'ahead')}<Checkbox
										label="Select {s.klass}, {s.form}"
										bind:checked={
											() => chosenIds.includes(s.id),
											(on) => (chosenIds = on ? [...chosenIds, s.id] : chosenIds.filter((id) => id !== s.id))
										}
									/>{/if}</td
							>{/if}
						<td
							><a class="word" href="/sessions/{s.id}?window={s.window_id}">{s.klass}</a>{#if s.by_name}<span
									class="small block leading-tight">selected students</span
								>{/if}</td
						>
						<td>{s.form}</td>
						<td class="whitespace-nowrap">{dateTime(s.start, zone)} to {time(s.end, zone)}</td>
						<td>{s.room}</td>
						<td>{s.proctor}</td>
						<td><code>{s.code}</code></td>
						<td><SittingBar counts={s.counts} load={() => behind('all', s.id)} /></td>
						<td class:font-semibold={s.phase === 'open'} class="whitespace-nowrap">{PHASES[s.phase]}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{:else if data && !planning}
	<div class="sheet p-6 text-ink2">
		Sessions of this window appear here with class, time, room, code, and how many have submitted.
		{#if staff.may('sessions.plan')}<button class="word" onclick={() => plan(true)}>Schedule the first session</button
			>.{/if}
	</div>
{/if}
<ChangeDialog bind:open={changing} lines={selected} ondone={changed} />
<CancelDialog bind:open={canceling} lines={selected} ondone={changed} />
