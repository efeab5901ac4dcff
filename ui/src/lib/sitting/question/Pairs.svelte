<script lang="ts">
	import Markup from '$lib/parts/Markup.svelte';
	import { pairs, pairText, type PartOf } from './answer';

	/** Each row with one column: a table where there is room, a menu for each row where there is not. */
	let {
		part,
		name,
		value,
		onput
	}: { part: PartOf<'match'>; name: string; value: string; onput: (text: string) => void } = $props();
	const found = $derived(pairs(value));
	const put = (row: string, column: string) =>
		onput(pairText({ ...found, [row]: found[row] === column ? '' : column }, part.rows));
</script>

<div class="@container">
	<table class="hidden text-[17px] @lg:table">
		<thead
			><tr
				><th></th>{#each part.columns as column (column.id)}<th class="text-center text-[16px] whitespace-normal"
						><Markup html={column.html} inline /></th
					>{/each}</tr
			></thead
		>
		<tbody>
			{#each part.rows as row (row.id)}
				<tr>
					<td class="h-[52px] text-[17px]"><Markup html={row.html} inline /></td>
					{#each part.columns as column (column.id)}
						<td class="text-center">
							<label class="inline-flex size-11 cursor-pointer items-center justify-center">
								<span class="sr-only">{row.html.replace(/<[^>]+>/g, ' ')}: {column.html.replace(/<[^>]+>/g, ' ')}</span>
								<input
									class="size-6 accent-petrol"
									type="checkbox"
									name="{name}-{row.id}"
									checked={found[row.id] === column.id}
									onchange={() => put(row.id, column.id)}
								/>
							</label>
						</td>
					{/each}
				</tr>
			{/each}
		</tbody>
	</table>
	<div class="@lg:hidden">
		{#each part.rows as row (row.id)}
			<div class="my-3">
				<div class="mb-1"><Markup html={row.html} inline /></div>
				<div class="flex flex-wrap gap-2">
					{#each part.columns as column (column.id)}
						{@const on = found[row.id] === column.id}
						<button
							type="button"
							aria-pressed={on}
							class="min-h-[44px] cursor-pointer rounded-md border-[1.5px] px-3 text-[16px] {on
								? 'border-petrol bg-wash shadow-[inset_4px_0_0_var(--color-petrol)]'
								: 'border-edge-soft'}"
							onclick={() => put(row.id, column.id)}><Markup html={column.html} inline /></button
						>
					{/each}
				</div>
			</div>
		{/each}
	</div>
</div>
