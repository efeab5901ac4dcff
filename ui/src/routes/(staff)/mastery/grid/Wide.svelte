<script lang="ts">
	import { goto } from '$app/navigation';
	import type { Schemas } from '$lib/api/client';
	import Grid from '$lib/parts/grid/Grid.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { percent } from '$lib/words/show';
	import { AGAIN, cellWords, CHANGED, FALLING, RISING, shortCode, STATES } from '../states';

	/** More students or standards than a table can hold: painted, only what is on the screen. */
	let {
		page,
		rows,
		columns,
		onopen
	}: {
		page: Schemas['GridPage'];
		rows: Schemas['GridRow'][];
		columns: number[];
		onopen: (person: string, standard: string) => void;
	} = $props();
	const LETTERS = ['', '·', 'B', 'D', 'M', 'R'];
	/** Wide enough to read, and the room filled where columns are few. */
	const width = $derived(Math.max(46, Math.min(90, Math.floor(620 / Math.max(1, columns.length)))));
	const INK = '#16242a';
	const style = getComputedStyle(document.documentElement);
	const tint = ['', '', 2, 3, 4, 5].map((at) => (at ? style.getPropertyValue(`--color-relief${at}`) : ''));
	const column = (at: number) => page.columns[columns[at] ?? 0]!;

	function paint(on: CanvasRenderingContext2D, r: number, c: number, width: number, height: number) {
		const row = rows[r];
		const at = columns[c] ?? 0;
		const state = row?.states[at] ?? 0;
		const sign = row?.signs[at] ?? 0;
		if (tint[state]) {
			on.fillStyle = tint[state];
			on.fillRect(1, 1, width - 2, height - 1);
		}
		on.fillStyle = on.strokeStyle = state === 2 ? '#fff' : INK;
		on.fillText(LETTERS[state] ?? '', width / 2, height / 2 + 1);
		on.lineWidth = 2;
		on.beginPath();
		if (sign & RISING) {
			on.moveTo(2, 6);
			on.lineTo(width - 2, 2);
		}
		if (sign & FALLING) {
			on.moveTo(2, 2);
			on.lineTo(width - 2, 6);
		}
		on.stroke();
		if (sign & CHANGED) {
			on.beginPath();
			on.moveTo(width - 9, 1);
			on.lineTo(width - 1, 1);
			on.lineTo(width - 1, 9);
			on.fill();
		}
		if (sign & AGAIN) {
			on.lineWidth = 1.3;
			on.beginPath();
			on.arc(width - 8, height - 7, 3.4, 0, 7);
			on.stroke();
		}
	}
	function open(r: number, c: number) {
		if (r >= 0 && c >= 0) onopen(rows[r]?.person ?? '', column(c).standard);
		else if (r >= 0) void goto(`/mastery/${rows[r]?.person}?subject=${encodeURIComponent(page.subject)}`);
		else if (c >= 0)
			void goto(
				page.class_id
					? `/mastery/standards/${column(c).standard}?klass=${page.class_id}`
					: `/mastery/district?${new URLSearchParams({ subject: page.subject, grade: column(c).grade })}`
			);
	}
	const who = (at: number) => staff.name(rows[at]?.name ?? '', rows[at]?.alias ?? at);
	const says = (r: number, c: number) =>
		r < 0
			? c < 0
				? 'Student'
				: `${column(c).code}: ${column(c).text}, mastered ${column(c).mastered} of ${column(c).assessed}`
			: c < 0
				? who(r)
				: `${who(r)}, ${column(c).code}: ${rows[r] ? cellWords(rows[r], columns[c] ?? 0) : STATES[0]}`;
</script>

<Grid
	label="Students by standards"
	rows={rows.length}
	columns={columns.length}
	columnWidth={width}
	head={{ width: 170, height: 58 }}
	{paint}
	painted={[rows, columns, staff.veiled]}
	{says}
	onopen={open}
	maxHeight="560px"
>
	{#snippet corner()}<span class="small block px-2 leading-tight">mastered<br />of assessed</span>{/snippet}
	{#snippet columnHead(at)}<span class="block text-center text-[12px] leading-tight" title={column(at).text}
			><b class="font-semibold">{shortCode(column(at).code)}</b><br />{column(at).mastered}/{column(at).assessed}<br
			/><i class="not-italic opacity-80">{percent(column(at).district?.share ?? null)}</i></span
		>{/snippet}
	{#snippet rowHead(at)}<span class="truncate text-[13px]">{who(at)}</span>{/snippet}
</Grid>
<p class="small mt-1">
	B beginning, D developing, M mastered, R retained, · evidence too thin. Heads: mastered of assessed, and the share of
	the {page.grade ? `grade in the district` : 'district'}.
</p>
