<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';
	import { decimal, percent } from '$lib/words/show';
	import { AGAIN, cellWords, CHANGED, FALLING, inkOn, RISING, SHORT, shortCode, TINTS } from '../states';

	/** Students by standards, grouped by domain; arrow keys go from cell to cell. */
	let {
		page,
		rows,
		columns,
		shares,
		open,
		onopen
	}: {
		page: Schemas['GridPage'];
		rows: Schemas['GridRow'][];
		/** Places of columns, in order. */
		columns: number[];
		/** Whether a cell says its share and points below its state. */
		shares: boolean;
		open: { person: string; standard: string } | null;
		onopen: (person: string, standard: string) => void;
	} = $props();
	let table = $state<HTMLTableElement>();
	const shown = $derived(columns.map((at) => ({ at, ...page.columns[at]! })));
	/** Neighbors of one domain and grade share a heading. */
	const domains = $derived.by(() => {
		const found: { label: string; span: number }[] = [];
		for (const c of shown) {
			const label =
				c.grade === page.grade || c.domain.includes(`grade ${c.grade}`) ? c.domain : `${c.domain}, grade ${c.grade}`;
			const last = found.at(-1);
			if (last && last.label === label) last.span++;
			else found.push({ label, span: 1 });
		}
		return found;
	});

	function move(event: KeyboardEvent, row: number, column: number) {
		const by = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
		if (!by) return;
		event.preventDefault();
		table?.querySelector<HTMLButtonElement>(`[data-at="${row + by[0]!} ${column + by[1]!}"]`)?.focus();
	}
	const who = (row: Schemas['GridRow']) => staff.name(row.name, row.alias);
</script>

<div {@attach scrollable} class="frozen sheet max-h-[560px] overflow-auto">
	<table bind:this={table} aria-label="Students by standards">
		<thead>
			{#if domains.some((d) => d.label)}<tr class="domains">
					<th class="sticky left-0 z-20"></th>
					{#each domains as d, at (at)}<th colspan={d.span} class="small border-l border-hair px-1 font-normal"
							><span class="line-clamp-2 leading-tight">{d.label}</span></th
						>{/each}
				</tr>{/if}
			<tr>
				<th class="sticky left-0 z-20 min-w-[128px]">Student</th>
				{#each shown as c (c.standard)}
					<th
						class="px-1 text-center {c.standard === open?.standard ? 'bg-wash' : ''} {c.taught
							? ''
							: 'font-normal italic'}"
						title="{c.code}: {c.text}{c.taught ? '' : ' (not taught yet by the pacing guide)'}"
						><a
							class="word"
							href={page.class_id
								? `/mastery/standards/${c.standard}?klass=${page.class_id}`
								: `/mastery/district?${new URLSearchParams({ subject: page.subject, grade: c.grade })}`}
							>{shortCode(c.code)}</a
						></th
					>
				{/each}
			</tr>
		</thead>
		<tbody>
			{#each rows as row, at (row.person)}
				<tr>
					<th
						scope="row"
						class="sticky left-0 z-10 text-left font-normal whitespace-nowrap {row.person === open?.person
							? 'bg-wash font-semibold'
							: 'bg-sheet'}"
						><a class="word" href="/mastery/{row.person}?subject={encodeURIComponent(page.subject)}">{who(row)}</a></th
					>
					{#each shown as c, place (c.standard)}
						{@const state = row.states[c.at] ?? 0}
						{@const sign = row.signs[c.at] ?? 0}
						<td class="px-px py-0.5">
							<button
								class="ground {shares ? 'two' : ''} {row.person === open?.person && c.standard === open?.standard
									? 'chosen'
									: ''}"
								style="background: {TINTS[state]}; color: {inkOn(state)}"
								data-at="{at} {place}"
								tabindex={at === 0 && place === 0 ? 0 : -1}
								aria-label="{who(row)}, {c.code}: {cellWords(row, c.at)}"
								title={cellWords(row, c.at)}
								onclick={() => onopen(row.person, c.standard)}
								onkeydown={(e) => move(e, at, place)}
							>
								<span class="truncate"
									>{state === 1
										? `${decimal(row.amounts[c.at] ?? 0, 0)} points`
										: state === 0
											? '–'
											: SHORT[state]}</span
								>
								{#if shares && state > 1}<span class="share {sign & AGAIN ? 'beside' : ''}"
										>{percent(row.shares[c.at] ?? null)} of {decimal(row.amounts[c.at] ?? 0, 0)}</span
									>{/if}
								{#if sign & (RISING | FALLING)}<svg
										class="edge"
										viewBox="0 0 60 6"
										preserveAspectRatio="none"
										aria-hidden="true"
										><path d={sign & RISING ? 'M0 5L60 1' : 'M0 1L60 5'} stroke="currentColor" stroke-width="2" /></svg
									>{/if}
								{#if sign & CHANGED}<svg class="changed" width="8" height="8" aria-hidden="true"
										><path d="M0 0H8V8Z" fill="currentColor" /></svg
									>{/if}
								{#if sign & AGAIN}<svg class="again" width="9" height="9" aria-hidden="true"
										><circle cx="4.5" cy="4.5" r="3.4" fill="none" stroke="currentColor" stroke-width="1.3" /></svg
									>{/if}
							</button>
						</td>
					{/each}
				</tr>
			{/each}
		</tbody>
		<tfoot>
			<tr>
				<th scope="row" class="sticky left-0 bg-sheet text-left">Mastered</th>
				{#each shown as c (c.standard)}<td class="text-center text-[12.5px]"><b>{c.mastered}</b> of {c.assessed}</td
					>{/each}
			</tr>
			{#if shown.some((c) => c.school)}<tr>
					<th scope="row" class="sticky left-0 bg-sheet text-left font-normal">Grade {page.grade}, school</th>
					{#each shown as c (c.standard)}<td class="small text-center" title="of {c.school?.n ?? 0}"
							>{percent(c.school?.share ?? null)}</td
						>{/each}
				</tr>{/if}
			<tr>
				<th scope="row" class="sticky left-0 bg-sheet text-left font-normal"
					>{page.grade ? `Grade ${page.grade}, district` : 'District'}</th
				>
				{#each shown as c (c.standard)}<td class="small text-center" title="of {c.district?.n ?? 0}"
						>{percent(c.district?.share ?? null)}</td
					>{/each}
			</tr>
		</tfoot>
	</table>
</div>

<style>
	.ground {
		position: relative;
		display: flex;
		flex-direction: column;
		align-items: center;
		justify-content: center;
		width: 100%;
		min-width: 56px;
		height: 25px;
		padding: 0 1px;
		overflow: hidden;
		font-size: 11px;
		line-height: 13px;
		border-radius: 2px;
		cursor: pointer;
	}
	.ground.two {
		height: 32px;
	}
	.share {
		font-size: 10px;
		line-height: 12px;
		letter-spacing: -0.03em;
		white-space: nowrap;
	}
	/* the ring stands beside it */
	.share.beside {
		padding-right: 8px;
		letter-spacing: -0.05em;
	}
	.ground:focus-visible,
	.ground.chosen {
		outline: 2px solid var(--color-petrol);
		outline-offset: -1px;
		box-shadow: inset 0 0 0 3px var(--color-white);
	}
	.edge {
		position: absolute;
		top: 0;
		left: 0;
		width: 100%;
		height: 5px;
	}
	.again {
		position: absolute;
		right: 2px;
		bottom: 2px;
	}
	.changed {
		position: absolute;
		top: 0;
		right: 0;
	}
</style>
