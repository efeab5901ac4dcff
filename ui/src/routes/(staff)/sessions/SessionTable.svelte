<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import type { Schemas } from '$lib/api/client';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import { ordered, type Order } from '$lib/design/order';
	import SortHead from '$lib/design/SortHead.svelte';
	import SittingBar from '$lib/parts/SittingBar.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, time } from '$lib/words/show';
	import CancelDialog from './CancelDialog.svelte';
	import ChangeDialog from './ChangeDialog.svelte';

	/** Sessions of a window; those that this person plans can be selected, and edited or canceled at once. */
	let {
		sessions,
		behind,
		ondone
	}: {
		sessions: Schemas['SessionLine'][];
		behind: (of: string, session: string) => Promise<Schemas['BehindOut']>;
		ondone: (says: string) => void;
	} = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	let chosenIds = $state<string[]>([]);
	let changing = $state(false);
	let canceling = $state(false);
	let text = $state('');
	const plans = $derived(staff.may('sessions.plan'));
	/** As they come until a column is chosen: open ones first, then by time. */
	let order = $state<Order>({ by: '', down: false });
	const STATES = ['open', 'ahead', 'closed', 'canceled'];
	const COLUMNS: Record<string, (s: Schemas['SessionLine']) => string | number> = {
		class: (s) => s.klass,
		form: (s) => s.form,
		when: (s) => s.start,
		room: (s) => s.room,
		proctor: (s) => s.proctor,
		submitted: (s) => s.counts.handed_in ?? 0,
		state: (s) => STATES.indexOf(s.phase)
	};
	const lines = $derived(
		ordered(sessions, order, COLUMNS).filter((s) =>
			[s.klass, s.form, s.room, s.proctor, s.school, s.phase].some((w) => w.toLowerCase().includes(text.toLowerCase()))
		)
	);
	const changeable = $derived(lines.filter((s) => s.may_plan && (s.phase === 'open' || s.phase === 'ahead')));
	const selected = $derived(sessions.filter((s) => chosenIds.includes(s.id)));
	const PHASES = { open: 'open now', ahead: 'upcoming', closed: 'closed', canceled: 'canceled' };
	const counted = $derived(`${selected.length} ${selected.length === 1 ? 'session' : 'sessions'}`);

	function done(what: string) {
		ondone(`${counted} ${what}.`);
		chosenIds = [];
	}
</script>

{#snippet head(by: string, name: string)}<SortHead {by} {order} onorder={(to) => (order = to)}>{name}</SortHead
	>{/snippet}
<div class="mb-2 flex min-h-[38px] items-center gap-3">
	<label class="field flex items-center gap-2"
		><span class="sr-only">Filter</span><input
			class="input bare w-[260px]"
			type="search"
			placeholder="Filter by class, form, room, proctor"
			bind:value={text}
		/></label
	>
	{#if text}<span class="small">{lines.length} of {sessions.length}</span>{/if}
	{#if selected.length}
		<span class="ml-auto text-[14px] font-semibold">{selected.length} selected</span>
		<Button onclick={() => (changing = true)}>Edit</Button>
		<Button onclick={() => (canceling = true)}>Cancel sessions</Button>
		<Button kind="quiet" onclick={() => (chosenIds = [])}>Clear</Button>
	{/if}
</div>
<Table within="sheet max-h-[calc(100vh-150px)]">
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
				>{/if}{@render head('class', 'Class')}{@render head('form', 'Form')}{@render head('when', 'When')}{@render head(
				'room',
				'Room'
			)}{@render head('proctor', 'Proctor')}<th>Code</th>{@render head('submitted', 'Attempts')}{@render head(
				'state',
				'State'
			)}</tr
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
</Table>
<ChangeDialog bind:open={changing} lines={selected} ondone={() => done('changed')} />
<CancelDialog bind:open={canceling} lines={selected} ondone={() => done('canceled')} />
