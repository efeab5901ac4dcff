<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import { percent } from '$lib/words/show';

	/** Movement between ordered levels: who was where, and where they ended. */
	let { moves, start, end }: { moves: Schemas['LevelMoves']; start: string; end: string } = $props();
	const most = $derived(Math.max(1, ...moves.rows.flatMap((r) => r.ended)));
	const tint = (from: number, to: number) =>
		to > from ? 'var(--color-relief5)' : to < from ? 'var(--color-relief2)' : 'var(--color-relief3)';
</script>

<div class="grid gap-3 lg:grid-cols-[minmax(0,60fr)_minmax(0,40fr)]">
	<Panel label="From level to level" class="px-4 py-3">
		<div class="mb-2 flex items-baseline gap-3">
			<h2 class="text-[15px]">From level to level</h2>
			<span class="small">rows: {start}; columns: {end}; the diagonal stayed</span>
		</div>
		<Table label="Students by level at the start and at the end">
			<thead
				><tr
					><th>{start}</th><th class="n">Students</th>{#each moves.levels as level (level)}<th class="n">{level}</th
						>{/each}</tr
				></thead
			>
			<tbody>
				{#each moves.rows as row, from (row.level)}
					<tr>
						<td class="font-semibold">{row.level}</td>
						<td class="n">{row.n}</td>
						{#each row.ended as n, to (to)}
							<td class="n"
								>{#if n}<span
										class="inline-block min-w-[30px] rounded-[3px] px-1.5 text-center {to < from ? 'text-white' : ''}"
										style="background: color-mix(in srgb, {tint(from, to)} {Math.round(
											40 + (60 * n) / most
										)}%, var(--color-sheet)); color: {to < from && n / most > 0.5
											? 'var(--color-white)'
											: 'var(--color-ink)'}">{n}</span
									>{/if}</td
							>
						{/each}
					</tr>
				{/each}
			</tbody>
		</Table>
		<p class="small mt-2">
			The levels are in order and the steps between them are not equal, so nothing is averaged.
			{#if moves.up_ci95}{percent(moves.up_ci95[0] ?? 0)} to {percent(moves.up_ci95[1] ?? 0)} of such students rise.{/if}
		</p>
	</Panel>
	<Panel label="Classes" class="px-4 py-3">
		<h2 class="mb-1 text-[15px]">Classes</h2>
		<div>
			<Table within="max-h-[420px] overflow-auto">
				<thead
					><tr
						><th>Class</th><th class="n">Students</th><th class="n">Rose</th><th class="n">Stayed</th><th class="n"
							>Fell</th
						></tr
					></thead
				>
				<tbody>
					{#each moves.by_class as c (c.id)}<tr
							><td>{c.name}</td><td class="n">{c.n}</td>{#if c.hidden}<td colspan="3" class="small"
									>not shown, too few</td
								>{:else}<td class="n">{c.up}</td><td class="n">{c.same}</td><td class="n">{c.down}</td>{/if}</tr
						>{/each}
				</tbody>
			</Table>
		</div>
	</Panel>
</div>
