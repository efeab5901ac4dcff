<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, percent } from '$lib/words/show';
	import Run from '../Run.svelte';
	import Enter from './Enter.svelte';
	import Tried from './Tried.svelte';

	/** A cell opened: what the run says, what was tried, what comes next. */
	let {
		cell,
		alias,
		subject,
		onchange
	}: { cell: Schemas['CellPage']; alias: number; subject: string; onchange: () => void } = $props();
	const name = $derived(staff.name(cell.name, alias));
</script>

<p class="small">{cell.code}, {cell.plain || cell.text}</p>
<h2 class="text-[16px]">{name}: {cell.state}</h2>
<p class="mt-1 text-[15px] leading-snug font-semibold">{cell.says}</p>
<p class="mt-1 text-[14px]">{cell.next}</p>
{#if cell.share !== null}<p class="small mt-1">
		Share of the run {percent(cell.share)}{cell.average === null ? '' : `, over all ${percent(cell.average)}`}; probably {percent(
			cell.low
		)} to {percent(cell.high)}.
	</p>{/if}
{#if cell.followed.length}<p class="small mt-1">
		Evidence on {cell.followed.join(', ')} counts here: {cell.followed.length === 1 ? 'it was' : 'they were'} replaced by
		this standard.
	</p>{/if}
{#if cell.pieces.length}<Run page={cell} />{/if}
{#if cell.not_counted.length}<p class="small mt-1">
		Not counted: {cell.not_counted.map((r) => `${r.n} (${r.why})`).join('; ')}.
	</p>{/if}
{#if cell.history.length}
	<h3 class="mt-3 text-[13.5px] font-semibold">Since when</h3>
	<ul class="small">
		{#each cell.history as h (h.day)}<li>
				{day(h.day)}: {percent(h.share)} that day, {h.state}{h.taken ? ` (${h.taken})` : ''}
			</li>{/each}
	</ul>
{/if}
<Tried {cell} {onchange} />
{#if cell.may_enter}<Enter {cell} {onchange} />{/if}
<p class="mt-3">
	<Button href="/mastery/{cell.person}?subject={encodeURIComponent(subject)}">All standards</Button>
</p>
