<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { day } from '$lib/words/show';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { address } from './address.svelte';

	/** A verdict on the item, with its reason: it goes to the bank's history and holds the item back from the next form. */
	let { version, lines, onsaid }: { version: string; lines: Schemas['VerdictLine'][]; onsaid: () => void } = $props();
	type What = Schemas['VerdictIn']['verdict'];
	const WAYS: [What, string][] = [
		['keep', 'Keep'],
		['rework', 'Rework'],
		['drop', 'Drop'],
		['again', 'Field-test again']
	];
	let chosen = $state<What | ''>('');
	let reason = $state('');
	let problem = $state('');
	let busy = $state(false);
	const holds = $derived(lines[0] && lines[0].verdict !== 'open' ? lines[0] : null);

	async function say(verdict: What) {
		busy = true;
		try {
			await body(
				api.POST('/api/quality/verdicts', {
					body: {
						version_id: version,
						form_id: address.get('form'),
						window_id: address.all('window').length === 1 ? address.get('window') : null,
						verdict,
						reason
					}
				})
			);
			[chosen, reason, problem] = ['', '', ''];
			onsaid();
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<div role="group" aria-label="Decision">
	{#if holds}
		<p class="mb-1 text-[13.5px]">
			<b class="font-semibold">Decided: {holds.words}.</b>
			{holds.reason} <span class="small">{holds.by}, {day(holds.at)}</span>
			<Button kind="quiet" class="min-h-[26px]" disabled={busy} onclick={() => say('open')}>Delete</Button>
		</p>
	{/if}
	<div class="flex flex-wrap gap-1.5">
		{#each WAYS as [way, word] (way)}<Button
				class="min-h-[28px]"
				aria-pressed={chosen === way}
				onclick={() => (chosen = chosen === way ? '' : way)}>{word}</Button
			>{/each}
	</div>
	{#if chosen}
		<form class="mt-2 flex items-end gap-2" onsubmit={(e) => (e.preventDefault(), chosen && say(chosen))}>
			<!-- svelte-ignore a11y_autofocus -->
			<label class="field flex-1"
				>Why<input
					class="input"
					required
					maxlength="500"
					autofocus
					bind:value={reason}
					placeholder={chosen === 'keep' ? 'looked at it; the question is sound' : 'what was found'}
				/></label
			>
			<Button type="submit" kind="primary" disabled={busy}>Decide</Button>
		</form>
	{/if}
	{#if problem}<p class="mt-1 text-[13px] text-vermilion" role="alert">{problem}</p>{/if}
</div>
