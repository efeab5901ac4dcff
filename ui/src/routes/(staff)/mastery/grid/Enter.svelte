<script lang="ts">
	import { api, body, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Select from '$lib/design/Select.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { Doing } from '$lib/state/doing.svelte';
	import { day, decimal } from '$lib/words/show';

	/** Evidence that no test gave: a score or an observation of this student on this standard. */
	let { cell, onchange }: { cell: Schemas['CellPage']; onchange: () => void } = $props();
	let adding = $state(false);
	let kind = $state('observation');
	let what = $state('');
	let on = $state('');
	let earned = $state(0);
	let possible = $state(4);
	const doing = new Doing(() => onchange());

	function begin() {
		[adding, what, on, doing.problem] = [true, '', cell.today, ''];
	}
	async function add(event: Event) {
		event.preventDefault();
		await doing.do(
			() =>
				body(
					api.POST('/api/mastery/evidence', {
						body: {
							standard: cell.standard,
							kind,
							what,
							on: on || null,
							possible,
							points: [{ person: cell.person, earned }]
						}
					})
				),
			() => (adding = false)
		);
	}
</script>

<h3 class="mt-3 text-[13.5px] font-semibold">Entered by hand</h3>
<ul class="text-[13.5px]">
	{#each cell.entered as e (e.id)}<li class="flex flex-wrap items-center gap-x-2 py-0.5">
			<span class="flex-1"
				>{e.what}, {decimal(e.earned, 0)} of {decimal(e.possible, 0)}
				<span class="small">{day(e.day)}, {e.kind}, {e.by}</span></span
			>
			{#if e.mine || staff.may('mastery.rule')}<Button
					kind="quiet"
					class="min-h-[24px]"
					aria-label="Withdraw {e.what}"
					onclick={() => doing.do(() => api.DELETE('/api/mastery/evidence/{id}', { params: { path: { id: e.id } } }))}
					>Withdraw</Button
				>{/if}
		</li>{:else}<li class="small">Nothing yet.</li>{/each}
</ul>
{#if doing.problem}<p class="text-[13px] text-vermilion" role="alert">{doing.problem}</p>{/if}
{#if adding}
	<form class="mt-1 grid gap-2" onsubmit={add} aria-label="Evidence by hand">
		<label class="field"
			>Kind<Select
				bind:value={kind}
				choices={[
					{ value: 'observation', label: 'observation' },
					{ value: 'score', label: 'score' }
				]}
			/></label
		>
		<label class="field">What it was<input class="input" bind:value={what} maxlength="120" required /></label>
		<div class="flex flex-wrap items-end gap-2">
			<label class="field"
				>Points<input class="input w-[64px]" type="number" min="0" step="any" bind:value={earned} /></label
			>
			<label class="field"
				>of<input class="input w-[64px]" type="number" min="0.5" step="any" bind:value={possible} /></label
			>
		</div>
		<DateField label="Day of the work" bind:value={on} required />
		<div class="flex gap-2">
			<Button type="submit" kind="primary" disabled={doing.busy}>Save</Button><Button onclick={() => (adding = false)}
				>Cancel</Button
			>
		</div>
	</form>
{:else}<Button class="mt-1 min-h-[26px]" onclick={begin}>Enter evidence</Button>{/if}
