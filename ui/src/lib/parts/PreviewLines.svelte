<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import { whole } from '$lib/words/show';
	import { scrollable } from '$lib/parts/scrollable';
	import type { Schemas } from '$lib/api/client';

	/** What becomes of each thing, by fate; a click on a count shows only those. */
	let {
		counts,
		lines,
		applied = false
	}: { counts: Record<string, number>; lines: Schemas['PreviewLine'][]; applied?: boolean } = $props();

	const FATES = [
		['added', 'to add', 'added'],
		['changed', 'to change', 'changed'],
		['left_out', 'left out', 'left out'],
		['same', 'stay the same', 'stayed the same']
	] as const;
	const SHOWN = 300;
	let fate = $state('');
	const shown = $derived(lines.filter((line) => !fate || line.fate === fate));
	const of = $derived(
		fate ? (counts[fate] ?? 0) : (counts.added ?? 0) + (counts.changed ?? 0) + (counts.left_out ?? 0)
	);
</script>

<div class="flex flex-wrap gap-x-5 gap-y-1 pt-1">
	{#each FATES as [name, ahead, done] (name)}
		{@const n = counts[name] ?? 0}
		<button
			class="min-h-7 text-[14px]"
			class:word={n > 0 && name !== 'same'}
			disabled={n === 0 || name === 'same'}
			aria-pressed={fate === name}
			onclick={() => (fate = fate === name ? '' : name)}
		>
			<b class="text-[17px]">{whole(n)}</b>
			{applied ? done : ahead}
		</button>
	{/each}
</div>
{#if shown.length}
	<div {@attach scrollable} class="frozen mt-2 max-h-72 border-t border-hair">
		<Table>
			<thead><tr><th>Result</th><th>What</th><th>Name</th><th>Id</th><th>Details</th></tr></thead>
			<tbody>
				{#each shown.slice(0, SHOWN) as line, at (at)}
					<tr>
						<td>{line.fate === 'left_out' ? 'left out' : line.fate}</td>
						<td>{line.what}</td>
						<td class="max-w-[320px] truncate">{line.label}</td>
						<td><code>{line.id}</code></td>
						<td>{line.detail}</td>
					</tr>
				{/each}
			</tbody>
		</Table>
		{#if of > Math.min(shown.length, SHOWN)}<p class="small p-2">
				and {whole(of - Math.min(shown.length, SHOWN))} more
			</p>{/if}
	</div>
{/if}
