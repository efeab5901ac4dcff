<script lang="ts">
	import { untrack } from 'svelte';
	import { goto, invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import Accordion from '$lib/design/Accordion.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Progress from '$lib/design/Progress.svelte';
	import Select from '$lib/design/Select.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, shortDay } from '$lib/words/show';
	import Board from './Board.svelte';
	import ChoosingPanel from './ChoosingPanel.svelte';
	import Chosen from './Chosen.svelte';
	import CloseRoom from './CloseRoom.svelte';
	import NoPlace from './NoPlace.svelte';
	import { Plan } from './plan.svelte';
	import Versions from './Versions.svelte';
	import Wishes from './Wishes.svelte';
	import type { PageProps } from './$types';

	/** A window of one school: planned, looked at, changed by hand, published. */
	let { data }: PageProps = $props();
	let plan = $state<Plan | null>(untrack(() => (data.board ? new Plan(data.board) : null)));
	let problem = $derived(data.problem);
	/** Milliseconds between looks at a plan that another person, or the server after a restart, is making. */
	const LOOK_AGAIN = 3000;
	let settings = $state(false);
	let asking = $state(false);
	let comparing = $state(false);
	let lost = $state('');
	let shownBoard = untrack(() => data.board);
	$effect(() => {
		if (data.board === shownBoard) return;
		shownBoard = data.board;
		const board = data.board;
		untrack(() => {
			if (board && plan && plan.board.school === board.school && plan.board.window === board.window) plan.show(board);
			else plan = board ? new Plan(board) : null;
		});
	});
	const board = $derived(plan?.board ?? null);
	$effect(() => {
		if (!board?.making || plan?.working) return;
		const again = setTimeout(() => void invalidateAll(), LOOK_AGAIN);
		return () => clearTimeout(again);
	});

	function choose(school: string) {
		const url = new URL(page.url);
		url.searchParams.set('school', school);
		void goto(url, { keepFocus: true });
	}

	function weekOf(days: { day: string }[]): string {
		const [from, to] = [days[0]?.day ?? '', days.at(-1)?.day ?? ''];
		return from ? `${shortDay(from)} to ${shortDay(to)}` : '';
	}
</script>

<div class="small mb-1 flex items-center gap-3">
	<span
		>{data.window ? `${data.window.name}, ${day(data.window.start)} to ${day(data.window.end)}` : ''} ·
		<a class="word" href="/people/year">School year</a> ·
		<a class="word" href="/calendar/day?school={board?.school ?? ''}">Testing day</a> ·
		<a class="word" href="/calendar/resources?school={board?.school ?? ''}">Rooms, bells and staff</a></span
	>
</div>
{#if plan && board}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Calendar" class="min-w-[420px] flex-1">{board.finding}</Finding>
		{#if board.schools.length > 1}<Select
				class="w-[210px]"
				label="School"
				value={board.school}
				choices={board.schools.map((s) => ({ value: s.id, label: s.name }))}
				onchange={choose}
			/>{/if}
		{#if board.plan && board.may && board.mine}
			<Button
				disabled={!board.undo}
				title={board.undo ? `Undo: ${board.undo}` : undefined}
				onclick={() => plan?.undo(false)}>Undo</Button
			>
			<Button
				disabled={!board.redo}
				title={board.redo ? `Redo: ${board.redo}` : undefined}
				onclick={() => plan?.undo(true)}>Redo</Button
			>
			<Button onclick={() => (settings = true)}>Plan again</Button>
			<Button kind="primary" disabled={!board.change_count || !!plan.working} onclick={() => (asking = true)}
				>Publish {board.change_count || ''}</Button
			>
		{/if}
	</div>
	<Notice text={problem || plan.problem} onclose={() => ((problem = ''), plan && (plan.problem = ''))} />
	{#if board.holder && !board.mine}<p class="sheet mb-2 px-4 py-2 text-[14px]">
			{board.holder} is planning this school now. You can look on, and take over after ten idle minutes.
		</p>{/if}
	{#each board.unsettled as one (one.name)}<p class="sheet mb-2 px-4 py-2 text-[14px]">
			<span class="notch">{one.name}</span> <a class="word" href="/tests/families/{one.id}">Choose their form</a>
		</p>{/each}
	{#if plan.working}
		<Panel class="mb-2 flex items-center gap-4 px-4 py-3">
			<Progress
				done={plan.working.done}
				total={plan.working.total}
				says={plan.working.what ? `Planning: ${plan.working.what}` : 'Working'}
			/>
			<Button onclick={() => plan?.stop()}>Stop and use the best so far</Button>
		</Panel>
	{/if}
	{#if board.making && !plan.working}<p class="sheet mb-2 px-4 py-2 text-[14px]" role="status">{board.making}</p>{/if}
	{#if !board.plan}
		{#if board.may}<Panel class="px-5 py-4" label="What is to be planned"
				>{#key `${board.window} ${board.school}`}<Wishes {plan} />{/key}</Panel
			>{/if}
	{:else}
		{#if board.choosing}<ChoosingPanel {plan} choosing={board.choosing} />{:else if board.left.length}<NoPlace
				{plan}
			/>{/if}
		<div class="mb-2 flex flex-wrap items-center gap-3">
			<ToggleGroup
				label="Rows"
				bind:value={plan.rows}
				choices={[
					{ value: 'rooms', label: 'Rooms' },
					{ value: 'people', label: 'Proctors' },
					{ value: 'classes', label: 'Classes' }
				]}
			/>
			<span class="small flex-1"
				>Drag a session, or press <kbd>Enter</kbd> on it and move it with the arrow keys. Dashed: not published yet. The line
				shows how full its room is.</span
			>
			{#if plan.rows === 'rooms'}<Checkbox bind:checked={plan.every}>all rooms</Checkbox>{/if}
			<Button disabled={plan.week === 0} onclick={() => plan && plan.week--}>Earlier</Button>
			<span class="text-[13.5px]">{weekOf(plan.weeks[plan.week] ?? [])}</span>
			<Button disabled={plan.week >= plan.weeks.length - 1} onclick={() => plan && plan.week++}>Later</Button>
		</div>
		{#if plan.session}<Chosen {plan} session={plan.session} />
			<div class="mb-2"></div>{/if}
		<Board {plan} onroom={(room) => (lost = room)} />
		<div class="mt-3 flex flex-wrap items-start gap-4">
			<div class="flex-1">
				<Accordion sections={[{ value: 'how', label: 'How this was calculated' }]}>
					{#each board?.figures.workings ?? [] as line (line)}<p class="mb-1 text-[13.5px]">{line}</p>{/each}
				</Accordion>
			</div>
			<Button onclick={() => (comparing = true)}>Compare plans</Button>
			<Button href="/api/planning/plans/{board.plan}/plan.csv" download="plan.csv">Export CSV</Button>
		</div>
	{/if}
	<Versions {plan} bind:open={comparing} />
	<CloseRoom {plan} bind:room={lost} />
	<Dialog bind:open={settings} title="Plan again" wide
		>{#key `${board.window} ${board.school}`}<Wishes {plan} ondone={() => (settings = false)} />{/key}</Dialog
	>
	<Dialog
		bind:open={asking}
		title="Publish the plan"
		says="Students, teachers and proctors see the sessions on their pages; what students were told before is told anew."
	>
		<ul class="mb-3 list-disc pl-5 text-[14px]">
			{#each board.changes as line (line)}<li>{line}</li>{/each}
			{#if board.left.length}<li>{board.tests - board.placed} tests stay without a place</li>{/if}
		</ul>
		<div class="flex justify-end gap-2">
			<Button onclick={() => (asking = false)}>Cancel</Button>
			<Button
				kind="primary"
				onclick={() => {
					asking = false;
					void plan?.publish();
				}}>Publish</Button
			>
		</div>
	</Dialog>
{:else}
	<Finding of="Calendar">{staff.calendar?.windows.length ? '' : 'No window is entered yet.'}</Finding>
	<Notice text={problem} onclose={() => (problem = '')} />
{/if}
