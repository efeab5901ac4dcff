<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { SessionPage } from './session.svelte';

	/** Before a session is closed: who never came, and what becomes of attempts in progress. */
	let { shown }: { shown: SessionPage } = $props();
	const working = $derived(shown.s?.counts.answering ?? 0);
	const missing = $derived((shown.data?.sittings ?? []).filter((s) => s.state === 'not_started'));
	const names = $derived(missing.map((s) => staff.name(s.name, shown.data?.sittings.indexOf(s) ?? 0)).slice(0, 8));
</script>

<Dialog bind:open={shown.closing} title="Close this session?">
	<form onsubmit={shown.close}>
		{#if missing.length}<p class="text-[14px]">
				Marked absent: {names.join(', ')}{missing.length > names.length
					? ` and ${missing.length - names.length} more`
					: ''}.
			</p>{/if}
		{#if working}
			<p class="mt-3 mb-1 text-[14px]">
				{working === 1 ? '1 attempt is in progress.' : `${working} attempts are in progress.`}
			</p>
			<RadioGroup
				class="flex-col"
				label="Attempts in progress"
				choices={[
					{ value: 'submit', label: 'Submit them as they are' },
					{ value: 'continue', label: 'Continue on another day, with the minutes left' }
				]}
				bind:value={shown.unfinished}
			/>
		{/if}
		<div class="mt-4 flex justify-end gap-2">
			<Button onclick={() => (shown.closing = false)}>Cancel</Button>
			<Button type="submit" kind="primary">Close session</Button>
		</div>
	</form>
</Dialog>
