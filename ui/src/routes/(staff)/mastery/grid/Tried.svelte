<script lang="ts">
	import { api, body, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import { Doing } from '$lib/state/doing.svelte';
	import { day, decimal, percent } from '$lib/words/show';

	/** What was tried with the student on this standard, and when; ended or withdrawn here. */
	let { cell, onchange }: { cell: Schemas['CellPage']; onchange: () => void } = $props();
	let adding = $state(false);
	let what = $state('');
	let start = $state('');
	const doing = new Doing(() => onchange());

	function begin() {
		[adding, what, start, doing.problem] = [true, '', cell.today, ''];
	}
	async function add(event: Event) {
		event.preventDefault();
		await doing.do(
			() =>
				body(
					api.POST('/api/mastery/interventions', {
						body: { standard: cell.standard, people: [cell.person], what, start: start || null, until: null }
					})
				),
			() => (adding = false)
		);
	}
	const end = (id: string, withdraw: boolean) =>
		doing.do(() =>
			api.PATCH('/api/mastery/interventions/{id}', {
				params: { path: { id } },
				body: { until: withdraw ? null : cell.today, withdraw }
			})
		);
</script>

{#if cell.tried.length || cell.may_enter}
	<h3 class="mt-3 text-[13.5px] font-semibold">What was tried</h3>
	<ul class="text-[13.5px]">
		{#each cell.tried as t (t.id)}<li class="border-b border-hair2 py-1 last:border-0">
				{t.what}
				<span class="small block"
					>{day(t.start)}{t.until ? ` to ${day(t.until)}` : ', goes on'}, {t.by}{t.group
						? `; group ${t.group}`
						: ''}</span
				>
				<span class="small block"
					>{percent(t.share_before)} before, {t.share_after === null
						? 'no evidence since'
						: `${percent(t.share_after)} of ${decimal(t.points_after, 0)} points since`}</span
				>
				{#if cell.may_enter}<span class="flex gap-2"
						>{#if !t.until}<Button kind="quiet" class="min-h-[24px]" onclick={() => end(t.id, false)}>End today</Button
							>{/if}<Button kind="quiet" class="min-h-[24px]" onclick={() => end(t.id, true)}>Withdraw</Button></span
					>{/if}
			</li>{:else}<li class="small">Nothing on record.</li>{/each}
	</ul>
	{#if doing.problem}<p class="text-[13px] text-vermilion" role="alert">{doing.problem}</p>{/if}
	{#if cell.may_enter}
		{#if adding}
			<form class="mt-1 grid gap-2" onsubmit={add} aria-label="Intervention">
				<label class="field">What is tried<input class="input" bind:value={what} maxlength="200" required /></label>
				<DateField label="Since" bind:value={start} required />
				<div class="flex gap-2">
					<Button type="submit" kind="primary" disabled={doing.busy}>Save</Button><Button
						onclick={() => (adding = false)}>Cancel</Button
					>
				</div>
			</form>
		{:else}<Button class="mt-1 min-h-[26px]" onclick={begin}>Add what is tried</Button>{/if}
	{/if}
{/if}
