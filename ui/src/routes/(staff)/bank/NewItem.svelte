<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import { api, body, said } from '$lib/api/client';

	/** What a new item is called and where it belongs; the rest is written in the editor. */
	let {
		subject,
		grade,
		standard,
		subjects,
		stimulus = ''
	}: { subject: string; grade: string; standard: string; subjects: string[]; stimulus?: string } = $props();
	let code = $state('');
	// svelte-ignore state_referenced_locally
	let chosen = $state(subject || subjects[0] || '');
	// svelte-ignore state_referenced_locally
	let at = $state(grade);
	let problem = $state('');
	let busy = $state(false);

	async function make(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		try {
			const made = await body(
				api.POST('/api/bank/items', { body: { code, subject: chosen, grade: at, stimulus_id: stimulus || null } })
			);
			await goto(`/bank/items/${made.item_id}/edit${standard ? `?standard=${encodeURIComponent(standard)}` : ''}`);
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<form class="sheet flex flex-wrap items-end gap-3 p-4" onsubmit={make}>
	<label class="field w-[180px]">Item code<input class="input" required maxlength="40" bind:value={code} /></label>
	<label class="field w-[180px]"
		>Subject<input class="input" list="subjects" maxlength="60" bind:value={chosen} /></label
	>
	<datalist id="subjects"
		>{#each subjects as s (s)}<option value={s}></option>{/each}</datalist
	>
	<label class="field w-[90px]">Grade<input class="input" maxlength="10" bind:value={at} /></label>
	<Button type="submit" kind="primary" class="min-h-[32px]" disabled={busy || !code.trim()}>Create</Button>
	{#if problem}<p class="text-vermilion" role="alert">{problem}</p>{/if}
</form>
