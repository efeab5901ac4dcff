<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { api, said, type Schemas } from '$lib/api/client';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Notice from '$lib/parts/Notice.svelte';

	/** One session or many do not take place, or end for all. */
	let {
		open = $bindable(false),
		lines,
		ondone
	}: { open?: boolean; lines: Schemas['SessionLine'][]; ondone: () => void } = $props();
	let why = $state('');
	let mistake = $state(false);
	let problem = $state('');
	const title = $derived(
		lines.length === 1 ? `Cancel the session of ${lines[0]?.klass}?` : `Cancel ${lines.length} sessions?`
	);

	async function go(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		try {
			await api.POST('/api/sessions/cancel', { body: { ids: lines.map((s) => s.id), why, still_owed: !mistake } });
			open = false;
			why = '';
			ondone();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Dialog
	bind:open
	{title}
	says="Submitted attempts and answers are kept. Attempts in progress end as interrupted. This cannot be undone."
>
	<form onsubmit={go}>
		<label class="field">Reason<input class="input" maxlength="300" required bind:value={why} /></label>
		<div class="mt-2"><Checkbox bind:checked={mistake}>Scheduled by mistake: the test is not owed</Checkbox></div>
		<Notice text={problem} />
		<div class="mt-3 flex justify-end gap-2">
			<Button onclick={() => (open = false)}>Keep session</Button>
			<Button type="submit" kind="primary">Cancel {lines.length === 1 ? 'session' : `${lines.length} sessions`}</Button>
		</div>
	</form>
</Dialog>
