<script lang="ts">
	import Select from '$lib/design/Select.svelte';
	import type { Schemas } from '$lib/api/client';

	/** The columns of a sheet, each with what it is matched with and the first of what it holds. */
	let {
		columns,
		matched = $bindable()
	}: {
		columns: Pick<Schemas['Columns'], 'columns' | 'fields'>;
		matched: Record<string, string>;
	} = $props();
</script>

<div class="mt-2 grid grid-cols-[repeat(auto-fill,minmax(210px,1fr))] gap-2">
	{#each columns.columns as c (c.name)}
		<label
			class="block rounded-[4px] border p-2 text-[13px] {matched[c.name]
				? 'border-relief3'
				: 'border-dashed border-hair'}"
		>
			<b class="font-semibold">{c.name}</b>
			<Select
				bind:value={matched[c.name]}
				choices={[
					{ value: '', label: 'skip this column' },
					...columns.fields.map((f) => ({ value: f.name, label: f.value }))
				]}
			/>
			<span class="small mt-1 block truncate" title={c.sample.join(', ')}
				>{c.sample.filter(Boolean).join(', ') || 'empty'}</span
			>
		</label>
	{/each}
</div>
