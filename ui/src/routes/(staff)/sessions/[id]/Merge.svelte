<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import { api, said, type Schemas } from '$lib/api/client';
	import Dialog from '$lib/design/Dialog.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import SessionPick from './SessionPick.svelte';

	/** Whoever has not started takes the test in another session of it. */
	let {
		open = $bindable(false),
		session,
		others
	}: { open?: boolean; session: Schemas['SessionLine']; others: Schemas['OtherSession'][] } = $props();
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
	<SessionPick {others} bind:value={into} />
	<Notice text={problem} />
	<div class="mt-3 flex justify-end gap-2">
		<Button onclick={() => (open = false)}>Cancel</Button>
		<Button kind="primary" disabled={!into} onclick={merge}>Merge</Button>
	</div>
</Dialog>
