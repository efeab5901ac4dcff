<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
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
	let all = $state(false);
	let part = $state('');
	let deal = $state(false);
	let grant = $state(false);
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
						end: `${date}T${to}:00`,
						part: part === '' ? null : Number(part),
						deal: deal && (chosen?.alike ?? 0) > 1,
						grant_role: grant && !!proctor && !proctor.may_hold
					}
				})
			);
			onplanned(made.ids, windowId);
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<form class="sheet mb-3 p-4" onsubmit={plan}>
	<div class="grid grid-cols-[1.4fr_1fr_1fr] gap-4">
		<div class="flex flex-col gap-3">
			<label class="field"
				>Form
				<select class="input" bind:value={formId} required onchange={() => ([classIds, part] = [[], ''])}>
					<option value="" disabled>choose a published form</option>
					{#each choices?.forms ?? [] as f (f.id)}<option value={f.id}>{f.name}</option>{/each}
				</select>
			</label>
			{#if chosen?.companions}
				<p class="small">
					With {chosen.companions} companion {chosen.companions === 1 ? 'form' : 'forms'}: who receives which is settled
					at their family; students see one title.
				</p>
				{#if chosen.alike > 1}<label class="flex items-center gap-2 text-[13.5px]"
						><input type="checkbox" bind:checked={deal} /> deal the {chosen.alike} forms that are alike out in turn, so that
						neighbours have different ones</label
					>{/if}
			{/if}
			{#if chosen?.parts.length}
				<label class="field"
					>Sat here
					<select class="input" bind:value={part}
						><option value="">the whole test</option>{#each chosen.parts as name, at (at)}<option value={String(at)}
								>{name} only; the rest on another day</option
							>{/each}</select
					>
				</label>
			{/if}
			<fieldset>
				<legend class="field">Classes ({classIds.length} chosen; one session each)</legend>
				<div {@attach scrollable} class="mt-0.5 max-h-44 overflow-auto rounded border border-[#8d9b98] p-1.5">
					{#each classes as c (c.id)}
						<label class="flex min-h-[27px] cursor-pointer items-center gap-2 px-1 text-[13.5px] hover:bg-wash">
							<input type="checkbox" value={c.id} bind:group={classIds} />{c.title}<span class="small"
								>{c.school}{c.room ? `, ${c.room}` : ''}</span
							>
						</label>
					{:else}<p class="small p-1">
							{formId ? 'No class of this subject and grade.' : 'Choose a form first.'}
						</p>{/each}
				</div>
				<div class="mt-1 flex gap-2">
					<button
						type="button"
						class="btn quiet !px-1"
						disabled={!classes.length}
						onclick={() => (classIds = classes.map((c) => c.id))}>Choose all shown</button
					>
					<label class="small flex items-center gap-1.5"
						><input type="checkbox" bind:checked={all} /> show classes of every subject and grade</label
					>
				</div>
			</fieldset>
		</div>
		<div class="flex flex-col gap-3">
			{#if fresh}
				<label class="field">Name of the new window<input class="input" bind:value={fresh.name} required /></label>
				<div class="grid grid-cols-2 gap-2">
					<label class="field">from<input class="input" type="date" bind:value={fresh.start} required /></label>
					<label class="field">to<input class="input" type="date" bind:value={fresh.end} required /></label>
				</div>
				<button type="button" class="btn quiet self-start !px-1" onclick={() => (fresh = null)}
					>Choose one that is there</button
				>
			{:else}
				<label class="field"
					>Window
					<select class="input" bind:value={windowId} required>
						{#each [...(staff.calendar?.windows ?? [])].reverse() as w (w.id)}<option value={w.id}
								>{dated(w.name, w.start)}</option
							>{/each}
					</select>
				</label>
				<button
					type="button"
					class="btn quiet self-start !px-1"
					onclick={() => (fresh = { name: '', start: date, end: date })}>Make a new window</button
				>
			{/if}
			<label class="field"
				>Room<input class="input" bind:value={room} placeholder="as the class has it" maxlength="60" /></label
			>
			<label class="field"
				>Proctor
				<select class="input" bind:value={proctorId}>
					<option value="">nobody yet</option>
					{#each choices?.staff ?? [] as p (p.id)}<option value={p.id}>{p.name}</option>{/each}
				</select>
			</label>
			{#if proctor && !proctor.may_hold}
				<label class="flex items-start gap-2 text-[13.5px]"
					><input class="mt-1" type="checkbox" bind:checked={grant} />
					<span
						>Give {proctor.name} the role of proctor at this school<span class="small block"
							>They have no role yet that lets them hold a session. The log says that you gave it.</span
						></span
					></label
				>
			{/if}
		</div>
		<div class="flex flex-col gap-3">
			<label class="field">Day<input class="input" type="date" bind:value={date} required /></label>
			<div class="grid grid-cols-2 gap-2">
				<label class="field">Start<input class="input" type="time" bind:value={from} required /></label>
				<label class="field">End<input class="input" type="time" bind:value={to} required /></label>
			</div>
			<p class="small">
				Times of {staff.calendar?.zone ?? ''}. The list of students is the class; it follows the class until the session
				closes.
			</p>
		</div>
	</div>
	<Notice text={problem} onclose={() => (problem = '')} />
	<div class="mt-3 flex justify-end gap-2">
		<button type="button" class="btn" onclick={onleave}>Leave it</button>
		<button
			class="btn primary"
			disabled={busy || !classIds.length || !formId || (!!proctor && !proctor.may_hold && !grant)}
			>Plan {classIds.length > 1 ? `${classIds.length} sessions` : 'the session'}</button
		>
	</div>
</form>
