<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import { untrack } from 'svelte';
	import { api, body, Problem, said, type Schemas } from '$lib/api/client';
	import Checkboxes from '$lib/design/Checkboxes.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import TimeField from '$lib/design/TimeField.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';
	import { fieldsOf } from '$lib/words/show';
	import ReasonAsked from '../ReasonAsked.svelte';

	/** Some students of a session take the test in a session of their own. */
	let {
		open = $bindable(false),
		session,
		sittings
	}: { open?: boolean; session: Schemas['SessionLine']; sittings: Schemas['SittingLine'][] } = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	let people = $state<string[]>([]);
	let slot = $state({ day: '', from: '', to: '', room: '', why: '' });
	let asksWhy = $state('');
	let problem = $state('');
	const waiting = $derived(sittings.filter((s) => s.state === 'not_started'));

	$effect(() => {
		const opened = open;
		untrack(() => {
			if (!opened) return;
			const [start, end] = [fieldsOf(session.start, zone), fieldsOf(session.end, zone)];
			[people, asksWhy, problem] = [[], '', ''];
			slot = { day: start.day, from: start.time, to: end.time, room: '', why: '' };
		});
	});

	async function split(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		try {
			const made = await body(
				api.POST('/api/sessions/{session_id}/split', {
					params: { path: { session_id: session.id } },
					body: {
						people,
						start: `${slot.day}T${slot.from}:00`,
						end: `${slot.day}T${slot.to}:00`,
						room: slot.room,
						proctor: null,
						why: slot.why
					}
				})
			);
			open = false;
			await goto(`/sessions/${made.ids[0]}?window=${session.window_id}`);
		} catch (error) {
			if (error instanceof Problem && error.place === 'why') asksWhy = error.detail;
			else problem = said(error);
		}
	}
</script>

<Dialog bind:open title="Split the session of {session.klass}" wide>
	<form class="grid grid-cols-2 gap-x-4 gap-y-3" onsubmit={split}>
		<fieldset class="row-span-3">
			<legend class="field">Students of the new session ({people.length} selected)</legend>
			<div {@attach scrollable} class="mt-0.5 max-h-60 overflow-auto rounded border border-edge p-1.5">
				<Checkboxes
					bind:values={people}
					choices={waiting.map((s, at) => ({ value: s.person, label: staff.name(s.name, at), more: s.needs }))}
				/>
			</div>
		</fieldset>
		<DateField label="Day" bind:value={slot.day} required />
		<div class="grid grid-cols-2 gap-2">
			<TimeField label="Start" bind:value={slot.from} required />
			<TimeField label="End" bind:value={slot.to} required />
		</div>
		<label class="field">Room<input class="input" maxlength="60" bind:value={slot.room} /></label>
		<ReasonAsked says={asksWhy} bind:why={slot.why} class="col-span-2" />
		<div class="col-span-2"><Notice text={problem} /></div>
		<div class="col-span-2 flex justify-end gap-2">
			<Button onclick={() => (open = false)}>Cancel</Button>
			<Button type="submit" kind="primary" disabled={!people.length}>Split session</Button>
		</div>
	</form>
</Dialog>
