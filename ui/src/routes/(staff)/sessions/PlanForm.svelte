<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkboxes from '$lib/design/Checkboxes.svelte';
	import TimeField from '$lib/design/TimeField.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { api, body, Problem, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import ReasonAsked from './ReasonAsked.svelte';
	import { dated } from '$lib/words/show';

	/** Plan one form for one class or many; each gets its own session, roster and code. */
	let {
		form,
		window,
		onplanned,
		onleave
	}: { form: string; window: string; onplanned: (ids: string[], window: string) => void; onleave: () => void } =
		$props();

	let choices = $state<Schemas['Choices'] | null>(null);
	let problem = $state('');
	let busy = $state(false);
	// svelte-ignore state_referenced_locally
	let formId = $state(form);
	// svelte-ignore state_referenced_locally
	let windowId = $state(window);
	let classIds = $state<string[]>([]);
	let room = $state('');
	let proctorId = $state('');
	let date = $state('');
	let from = $state('08:30');
	let to = $state('09:30');
	let several = $state(false);
	let apart = $state(false);
	let days = $state<Record<string, string>>({});
	let instructions = $state('');
	let last = $state('');
	/** Until when late work is taken; empty: not at all. */
	let late = $state('');
	let all = $state(false);
	let part = $state('');
	let deal = $state(false);
	let grant = $state(false);
	let why = $state('');
	let asksWhy = $state('');
	const proctor = $derived(choices?.staff.find((p) => p.id === proctorId));
	let fresh = $state<{ name: string; start: string; end: string } | null>(null);

	const chosen = $derived(choices?.forms.find((f) => f.id === formId));
	const classes = $derived(
		(choices?.classes ?? []).filter(
			(c) => all || !chosen?.subject || (c.subject === chosen.subject && (!chosen.grade || c.grade === chosen.grade))
		)
	);

	onMount(async () => {
		try {
			choices = await body(api.GET('/api/sessions/choices'));
		} catch (error) {
			problem = said(error);
		}
		date = staff.calendar?.today ?? '';
		const zone = staff.calendar?.zone;
		const now = new Date();
		const clock = (add: number) =>
			new Date(now.getTime() + add * 60000).toLocaleTimeString('en-GB', {
				timeZone: zone,
				hour: '2-digit',
				minute: '2-digit'
			});
		from = clock(-1);
		to = clock(59) > from ? clock(59) : '23:59';
		const open = staff.calendar?.windows.find((w) => w.start <= date && date <= w.end);
		if (!staff.calendar?.windows.length) fresh = { name: '', start: date, end: date };
		windowId = open?.id ?? (windowId || (staff.window(null)?.id ?? ''));
	});

	async function plan(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		problem = '';
		try {
			if (fresh) {
				const made = await body(api.POST('/api/windows', { body: fresh }));
				windowId = made.ids[0] ?? '';
				fresh = null;
				await staff.loadCalendar();
			}
			const made = await body(
				api.POST('/api/sessions', {
					body: {
						form_id: formId,
						window_id: windowId,
						class_ids: classIds,
						room,
						proctor_id: proctorId || null,
						start: `${date}T${from}:00`,
						end: `${several ? late || last : date}T${to}:00`,
						due: several && late ? `${last}T${to}:00` : null,
						part: part === '' ? null : Number(part),
						deal: deal && (chosen?.alike ?? 0) > 1,
						grant_role: grant && !!proctor && !proctor.may_hold,
						why,
						instructions,
						times: apart
							? classIds.map((id) => ({
									class_id: id,
									start: `${days[id] || date}T${from}:00`,
									end: `${several ? late || last : days[id] || date}T${to}:00`
								}))
							: []
					}
				})
			);
			onplanned(made.ids, windowId);
		} catch (error) {
			if (error instanceof Problem && error.place === 'why') asksWhy = error.detail;
			else problem = said(error);
		}
		busy = false;
	}
</script>

<form class="sheet mb-3 p-4" onsubmit={plan}>
	<div class="grid grid-cols-[1.4fr_1fr_1fr] gap-4">
		<div class="flex flex-col gap-3">
			<label class="field"
				>Form
				<Select
					bind:value={formId}
					choices={(choices?.forms ?? []).map((f) => ({ value: f.id, label: f.name }))}
					onchange={() => ([classIds, part] = [[], ''])}
					placeholder="Choose a published form"
				/>
			</label>
			{#if chosen?.companions}
				<p class="small">
					With {chosen.companions} companion {chosen.companions === 1 ? 'form' : 'forms'}: the family page says who
					receives which; students see one title.
				</p>
				{#if chosen.alike > 1}<Checkbox bind:checked={deal}
						>alternate the {chosen.alike} parallel forms so that neighbors get different ones</Checkbox
					>{/if}
			{/if}
			{#if chosen?.parts.length}
				<label class="field"
					>Sections
					<Select
						bind:value={part}
						choices={[
							{ value: '', label: 'the whole test' },
							...chosen.parts.map((name, at) => ({ value: String(at), label: `${name} only; the rest on another day` }))
						]}
					/>
				</label>
			{/if}
			<fieldset>
				<legend class="field">Classes ({classIds.length} selected; one session each)</legend>
				<div {@attach scrollable} class="mt-0.5 max-h-44 overflow-auto rounded border border-edge p-1.5">
					<Checkboxes
						bind:values={classIds}
						choices={classes.map((c) => ({
							value: c.id,
							label: c.title,
							more: `${c.school}${c.room ? `, ${c.room}` : ''}`
						}))}
					/>
					{#if !classes.length}<p class="small p-1">
							{formId ? 'No class of this subject and grade.' : 'Choose a form first.'}
						</p>{/if}
				</div>
				<div class="mt-1 flex gap-2">
					<Button
						kind="quiet"
						class="px-1"
						disabled={!classes.length}
						onclick={() => (classIds = classes.map((c) => c.id))}>Select all shown</Button
					>
					<Checkbox bind:checked={all}>show classes of every subject and grade</Checkbox>
				</div>
			</fieldset>
		</div>
		<div class="flex flex-col gap-3">
			{#if fresh}
				<label class="field">Window name<input class="input" bind:value={fresh.name} required /></label>
				<div class="grid grid-cols-2 gap-2">
					<DateField label="from" bind:value={fresh.start} required />
					<DateField label="to" bind:value={fresh.end} required />
				</div>
				<Button kind="quiet" class="self-start px-1" onclick={() => (fresh = null)}>Choose an existing window</Button>
			{:else}
				<label class="field"
					>Window
					<Select
						bind:value={windowId}
						choices={[...(staff.calendar?.windows ?? [])]
							.reverse()
							.map((w) => ({ value: w.id, label: `${dated(w.name, w.start)}` }))}
					/>
				</label>
				{#if staff.may('years.write')}<Button
						kind="quiet"
						class="self-start px-1"
						onclick={() => (fresh = { name: '', start: date, end: date })}>New window</Button
					>{/if}
			{/if}
			<label class="field"
				>Room<input class="input" bind:value={room} placeholder="the room of the class" maxlength="60" /></label
			>
			<label class="field"
				>Proctor
				<Select
					bind:value={proctorId}
					choices={[
						{ value: '', label: 'none yet' },
						...(choices?.staff ?? []).map((p) => ({ value: p.id, label: p.name }))
					]}
				/>
			</label>
			{#if proctor && !proctor.may_hold}
				<Checkbox bind:checked={grant}
					><span
						>Assign {proctor.name} the proctor role at this school<span class="small block"
							>They have no role yet that allows proctoring. The log records that you assigned it.</span
						></span
					></Checkbox
				>
			{/if}
		</div>
		<div class="flex flex-col gap-3">
			<DateField label={several ? 'First day' : 'Day'} bind:value={date} required />
			{#if several}<DateField label="Due" bind:value={last} min={date} required />
				<DateField label="Accept late until (empty: not accepted)" bind:value={late} min={last} />{/if}
			<Checkbox bind:checked={several} onchange={(on) => on && (last ||= date)}
				>Open for several days; students start any time</Checkbox
			>
			<div class="grid grid-cols-2 gap-2">
				<TimeField label="Start" bind:value={from} required />
				<TimeField label="End" bind:value={to} required />
			</div>
			{#if classIds.length > 1}
				<Checkbox bind:checked={apart}>A day for each class</Checkbox>
				{#if apart}
					<div {@attach scrollable} class="flex max-h-44 flex-col gap-1.5 overflow-auto">
						{#each classes.filter((c) => classIds.includes(c.id)) as c (c.id)}
							<DateField label={c.title} bind:value={() => days[c.id] ?? date, (to) => (days[c.id] = to)} />
						{/each}
					</div>
				{/if}
			{/if}
			<label class="field"
				>Instructions for students<textarea class="input" rows="2" maxlength="2000" bind:value={instructions}
				></textarea></label
			>
			<p class="small">
				Times in {staff.calendar?.zone ?? ''}. The roster follows the class until the session closes.
			</p>
		</div>
	</div>
	<ReasonAsked says={asksWhy} bind:why class="mt-3" />
	<Notice text={problem} onclose={() => (problem = '')} />
	<div class="mt-3 flex justify-end gap-2">
		<Button onclick={onleave}>Cancel</Button>
		<Button
			type="submit"
			kind="primary"
			disabled={busy || !classIds.length || !formId || (!!proctor && !proctor.may_hold && !grant)}
			>Schedule {classIds.length > 1 ? `${classIds.length} sessions` : 'session'}</Button
		>
	</div>
</form>
