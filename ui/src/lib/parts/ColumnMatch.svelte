<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import type { Schemas } from '$lib/api/client';
	import ColumnGrid from './ColumnGrid.svelte';

	/** The columns of somebody's own sheet, each matched with what it holds. */
	let {
		columns,
		busy,
		onmatched
	}: {
		columns: Schemas['Columns'];
		busy: boolean;
		onmatched: (matching: { matched: Record<string, string>; school: string; whole: boolean }) => void;
	} = $props();

	let matched = $state<Record<string, string>>({});
	let school = $state('');
	let whole = $state(false);

	$effect.pre(() => {
		matched = Object.fromEntries(columns.columns.map((c) => [c.name, c.field]));
		school = ''; // a wrong guess would put a whole list into the wrong school
	});
	const used = $derived(new Set(Object.values(matched)));
	const twice = $derived(
		columns.fields.filter((f) => Object.values(matched).filter((m) => m === f.name).length > 1).map((f) => f.value)
	);
	const missing = $derived(
		[
			!used.has('id') && 'student number',
			!used.has('school') && !school.trim() && 'the school',
			!(used.has('name') || (used.has('given') && used.has('family'))) && 'names'
		].filter(Boolean)
	);
	const left = $derived(Object.values(matched).filter((m) => !m).length);
</script>

<div class="mt-3 border-t border-hair pt-3">
	<h2>
		{columns.rows} rows. Choose what each column contains{left
			? `; ${left} ${left === 1 ? 'is' : 'are'} left out`
			: ''}.
	</h2>
	<ColumnGrid {columns} bind:matched />
	<div class="mt-3 flex flex-wrap items-end gap-4 text-[13.5px]">
		{#if !used.has('school')}
			<label class="field w-56">School<input class="input" list="schools" bind:value={school} /></label>
			<datalist id="schools"
				>{#each columns.schools as s (s)}<option value={s}></option>{/each}</datalist
			>
		{/if}
		<Checkbox bind:checked={whole}>The file lists every student of the school; students not listed have left</Checkbox>
		<span class="flex-1"></span>
		<span class="small">
			{#if missing.length}Still needed: {missing.join(', ')}.{:else if twice.length}Matched twice: {twice.join(
					', '
				)}.{/if}
		</span>
		<Button
			kind="primary"
			disabled={busy || missing.length > 0 || twice.length > 0}
			onclick={() => onmatched({ matched: { ...matched }, school, whole })}>Preview</Button
		>
	</div>
</div>
