<script lang="ts">
	import { goto } from '$app/navigation';
	import { api, said, type Schemas } from '$lib/api/client';
	import Dialog from '$lib/design/Dialog.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';

	/** Whoever has not started takes the test in another session of it. */
	let {
		open = $bindable(false),
		session,
		others
	}: { open?: boolean; session: Schemas['SessionLine']; others: Schemas['OtherSession'][] } = $props();
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	let into = $state('');
	let problem = $state('');

	async function merge() {
		problem = '';
		try {
			await api.POST('/api/sessions/{session_id}/merge', {
				params: { path: { session_id: session.id } },
				body: { into }
			});
			open = false;
			await goto(`/sessions/${into}?window=${session.window_id}`);
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Dialog
	bind:open
	title="Merge the session of {session.klass}"
	says="Students who have not started take the test in the session you choose. A session with no one left in it is canceled."
>
	<RadioGroup
		label="Sessions of this test"
		class="max-h-[46vh] flex-col overflow-auto"
		bind:value={into}
		choices={others.map((o) => ({
			value: o.id,
			label: `${o.klass}, ${dateTime(o.start, zone)}`,
			more: `${o.room ? `${o.room}, ` : ''}${o.students} students`
		}))}
	/>
	<Notice text={problem} />
	<div class="mt-3 flex justify-end gap-2">
		<button class="btn" onclick={() => (open = false)}>Cancel</button>
		<button class="btn primary" disabled={!into} onclick={merge}>Merge</button>
	</div>
</Dialog>
