<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';

	/** A student who has started on the wrong form: what they go on with, and which answers come along. */
	let {
		session,
		sitting = $bindable(),
		ondone
	}: { session: string; sitting: Schemas['SittingLine'] | null; ondone: () => void } = $props();
	let found = $state<Schemas['FormChoices'] | null>(null);
	let problem = $state('');
	let to = $state('');
	let carry = $state(true);
	let why = $state('');
	const path = $derived({ session_id: session, sitting_id: sitting?.id ?? '' });
	const chosen = $derived(found?.others.find((o) => o.form_id === to));

	$effect(() => {
		if (!sitting) return;
		[found, problem, to, carry, why] = [null, '', '', true, ''];
		body(api.GET('/api/sessions/{session_id}/sittings/{sitting_id}/forms', { params: { path } }))
			.then((answer) => {
				found = answer;
				to = answer.others.find((o) => o.why)?.form_id ?? '';
			})
			.catch((error) => (problem = said(error)));
	});

	async function save(event: SubmitEvent) {
		event.preventDefault();
		try {
			await api.POST('/api/sessions/{session_id}/sittings/{sitting_id}/form', {
				params: { path },
				body: { form_id: to || null, carry, why }
			});
			sitting = null;
			ondone();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Dialog
	bind:open={() => sitting !== null, (on) => !on && (sitting = null)}
	title="Form of this attempt"
	says={found?.says ?? ''}
>
	{#if problem}<p class="mb-2 border-l-4 border-vermilion pl-3 text-[14px]" role="alert">{problem}</p>{/if}
	{#if found}
		<form class="flex flex-col gap-3" onsubmit={save}>
			<RadioGroup
				label="The student"
				bind:value={to}
				choices={[
					{ value: '', label: `goes on with ${found.form}; the attempt gets a note` },
					...found.others.map((o) => ({
						value: o.form_id,
						label: `continues on ${o.form}${o.why ? ` (${o.why})` : ''}`
					}))
				]}
			/>
			{#if chosen && found.answered}
				<Checkbox bind:checked={carry}
					>carry over answers to shared questions: {chosen.shared} of {found.answered}</Checkbox
				>
				<p class="small">
					Answers that are not carried over stay on record and do not count. The student enters both codes again; the
					time does not start over.
				</p>
			{/if}
			<label class="field"
				>Reason (kept with the attempt)<input class="input" bind:value={why} maxlength="300" required /></label
			>
			<div class="flex gap-2">
				<Button type="submit" kind="primary" disabled={!why.trim()}>Save</Button>
				<Button onclick={() => (sitting = null)}>Cancel</Button>
			</div>
		</form>
	{/if}
</Dialog>
