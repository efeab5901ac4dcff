<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { untrack } from 'svelte';
	import type { Schemas } from '$lib/api/client';
	import DateField from '$lib/design/DateField.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Select from '$lib/design/Select.svelte';
	import TimeField from '$lib/design/TimeField.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { SessionChange } from './change.svelte';
	import ReasonAsked from './ReasonAsked.svelte';

	/** Edit one session, or many at once. */
	let {
		open = $bindable(false),
		lines,
		ondone
	}: { open?: boolean; lines: Schemas['SessionLine'][]; ondone: () => void } = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	let change = $state.raw<SessionChange | null>(null);

	$effect(() => {
		const opened = open;
		// what is edited is taken once, when the dialog opens
		untrack(() => {
			change = opened ? new SessionChange(lines, zone) : null;
			void change?.load();
		});
	});

	async function save(event: SubmitEvent) {
		event.preventDefault();
		if (!(await change?.save())) return;
		open = false;
		ondone();
	}
	const SHIFTS = [-60, -30, -15, 15, 30, 60].map((n) => ({
		value: String(n),
		label: `${Math.abs(n)} minutes ${n < 0 ? 'earlier' : 'later'}`
	}));
	const title = $derived(
		lines.length === 1 ? `Edit ${lines[0]?.klass}, ${lines[0]?.form}` : `Edit ${lines.length} sessions`
	);
</script>

<Dialog bind:open {title} wide>
	{#if change}
		<form class="grid grid-cols-2 gap-x-4 gap-y-3" onsubmit={save}>
			{#if change.many}
				<label class="field"
					>Time
					<Select bind:value={change.shift} choices={[{ value: '', label: 'no change' }, ...SHIFTS]} />
				</label>
				<label class="field"
					>Room<input class="input" maxlength="60" placeholder="no change" bind:value={change.room} /></label
				>
			{:else}
				<DateField label="Day" bind:value={change.day} required />
				<div class="grid grid-cols-2 gap-2">
					<TimeField label="Start" bind:value={change.from} required />
					<TimeField label="End" bind:value={change.to} required />
				</div>
				<label class="field">Room<input class="input" maxlength="60" bind:value={change.room} /></label>
				<label class="field"
					>Proctor
					<Select
						bind:value={change.proctor}
						choices={[
							{ value: '', label: 'none' },
							...(change.choices?.staff ?? []).filter((p) => p.may_hold).map((p) => ({ value: p.id, label: p.name }))
						]}
					/>
				</label>
				<label class="field"
					>Form
					<Select
						bind:value={change.form}
						choices={(change.choices?.forms ?? []).map((f) => ({ value: f.id, label: f.name }))}
						placeholder={lines[0]?.form}
					/>
				</label>
				<label class="field">Title for students<input class="input" maxlength="120" bind:value={change.title} /></label>
			{/if}
			<label class="field col-span-2"
				>Instructions for students<textarea
					class="input"
					rows="2"
					maxlength="2000"
					placeholder={change.many ? 'no change' : ''}
					bind:value={change.instructions}></textarea></label
			>
			<ReasonAsked says={change.asksWhy} bind:why={change.why} class="col-span-2" />
			<div class="col-span-2"><Notice text={change.problem} /></div>
			<div class="col-span-2 flex justify-end gap-2">
				<Button onclick={() => (open = false)}>Cancel</Button>
				<Button type="submit" kind="primary" disabled={change.busy}>Save</Button>
			</div>
		</form>
	{/if}
</Dialog>
