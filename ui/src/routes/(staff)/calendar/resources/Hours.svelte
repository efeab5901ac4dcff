<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Table from '$lib/design/Table.svelte';
	import TimeField from '$lib/design/TimeField.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { Resources } from './resources.svelte';

	/** When staff can be at sessions, and which support they provide. */
	let { shown }: { shown: Resources } = $props();
	const WEEK = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday'];
	let open = $state(false);
	let one = $state.raw<Schemas['StaffLine'] | null>(null);
	let hours = $state<{ on: boolean; start: string; end: string }[]>([]);
	let provides = $state<string[]>([]);
	let language = $state('');
	let serves = $state.raw<Schemas['Ref'][]>([]);
	const named = $derived(shown.page.staff.filter((s) => s.says));
	let all = $state(false);
	const lines = $derived(all ? shown.page.staff : named);

	function edit(line: Schemas['StaffLine']) {
		one = line;
		hours = WEEK.map((_, n) => {
			const row = line.hours.find((h) => h.weekday === n);
			const on = !line.hours.length || !!row;
			return { on, start: row?.start.slice(0, 5) ?? '08:00', end: row?.end.slice(0, 5) ?? '15:30' };
		});
		provides = [...line.provides];
		language = line.language;
		serves = line.serves;
		open = true;
	}

	async function save(always: boolean) {
		open = false;
		if (!one) return;
		const sent = hours.flatMap((h, weekday) => (h.on ? [{ weekday, start: h.start, end: h.end }] : []));
		await shown.saveStaff(one.person, {
			hours: always ? [] : sent,
			provides,
			language,
			serves: serves.map((s) => s.id)
		});
	}
</script>

<section class="sheet mt-3 px-4 py-3" aria-labelledby="staff">
	<div class="mb-1 flex items-baseline gap-3">
		<h2 id="staff">Staff with limited hours, and support</h2>
		<button class="word small" onclick={() => (all = !all)}
			>{all ? 'Show only these' : `Show all ${shown.page.staff.length}`}</button
		>
	</div>
	<Table rows={lines.length} empty="All staff are available all day. Show all to enter hours.">
		<thead><tr><th>Name</th><th>Hours and support</th><th></th></tr></thead>
		<tbody>
			{#each lines as line (line.person)}
				<tr
					><td>{line.name}</td><td>{line.says || 'all day'}</td><td class="n"
						>{#if shown.page.may}<Button kind="quiet" onclick={() => edit(line)}>Edit</Button>{/if}</td
					></tr
				>
			{/each}
		</tbody>
	</Table>
</section>
<Dialog bind:open title={one?.name ?? ''} says="When they can be at a session, and what they provide there.">
	{#each hours as day, n (n)}
		<div class="mb-1 flex items-center gap-3">
			<span class="w-[120px]"><Checkbox bind:checked={day.on}>{WEEK[n]}</Checkbox></span>
			<TimeField label="From" bind:value={day.start} disabled={!day.on} />
			<TimeField label="To" bind:value={day.end} disabled={!day.on} />
		</div>
	{/each}
	<p class="small mt-3 mb-1">Provides</p>
	{#each shown.page.kinds as kind (kind.name)}
		<Checkbox
			bind:checked={
				() => provides.includes(kind.name),
				(on) => (provides = on ? [...provides, kind.name] : provides.filter((k) => k !== kind.name))
			}>{kind.value}</Checkbox
		>
	{/each}
	{#if provides.length}
		<label class="field mt-2"
			>Language, if not English<input class="input" bind:value={language} maxlength="40" /></label
		>
		<p class="small mt-3 mb-1">There for these students before all others</p>
		{#each serves as student, at (student.id)}
			<span class="mr-3 inline-flex items-center gap-1"
				>{staff.name(student.name, at)}<Button
					kind="quiet"
					aria-label="Remove {staff.name(student.name, at)}"
					onclick={() => (serves = serves.filter((s) => s.id !== student.id))}>Remove</Button
				></span
			>
		{/each}
		<PersonPick
			kind="student"
			label="Add student"
			but={serves.map((s) => s.id)}
			onpick={(p) => (serves = [...serves, { id: p.id, name: p.name }])}
		/>
	{/if}
	<div class="mt-3 flex justify-end gap-2">
		<Button onclick={() => save(true)}>Available all day</Button>
		<Button kind="primary" onclick={() => save(false)}>Save hours</Button>
	</div>
</Dialog>
