<script lang="ts">
	import { formats } from '$lib/words/formats.svelte';
	import type { Schemas } from '$lib/api/client';
	import { day } from '$lib/words/show';

	/** The year as weeks side by side: a filled cell is a day of instruction, windows are underlined, today is marked. */
	let { year }: { year: Schemas['YearPage'] } = $props();
	let width = $state(900);
	const DAYS = ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su'];
	const ms = 86_400_000;
	const at = (iso: string) => Date.parse(`${iso}T00:00:00Z`);
	const first = $derived(at(year.start) - ((new Date(at(year.start)).getUTCDay() + 6) % 7) * ms);
	const weeks = $derived(Math.ceil((at(year.end) - first + ms) / (7 * ms)));
	const rows = $derived(DAYS.map((name, row) => ({ name, row })).filter((d) => year.weekdays[d.row]));
	const left = 26;
	const step = $derived((width - left) / weeks);
	const high = 15;
	const iso = (time: number) => new Date(time).toISOString().slice(0, 10);
	const closedOn = (date: string) => year.closed.find((c) => !c.school && c.start <= date && date <= c.end);
	const cells = $derived(
		Array.from({ length: weeks }, (_, week) =>
			rows.map((d, row) => {
				const date = iso(first + (week * 7 + d.row) * ms);
				return { date, week, row, inside: date >= year.start && date <= year.end, closed: closedOn(date) };
			})
		).flat()
	);
	const months = $derived(
		Array.from({ length: weeks }, (_, week) => ({ week, date: new Date(first + (week * 7 + 6) * ms) })).filter(
			(w) => w.date.getUTCDate() <= 7
		)
	);
	const x = (date: string) => left + ((at(date) - first) / (7 * ms)) * step;
</script>

<div bind:clientWidth={width}>
	<svg
		{width}
		height={rows.length * high + 44}
		role="img"
		aria-label="{year.title}: {year.counted.days} days of instruction in {weeks} weeks of the calendar"
	>
		{#each rows as d, row (d.name)}<text x="0" y={18 + row * high + 11} font-size="11" fill="var(--color-ink2)"
				>{d.name}</text
			>{/each}
		{#each months as m (m.week)}<text x={left + m.week * step} y="12" font-size="11" fill="var(--color-ink2)"
				>{m.date.toLocaleDateString(formats.locale, { month: 'short', timeZone: 'UTC' })}</text
			>{/each}
		{#each cells as c (c.date)}
			{#if c.inside}
				<rect
					x={left + c.week * step + 1}
					y={18 + c.row * high + 1}
					width={Math.max(2, step - 2)}
					height={high - 2}
					rx="1"
					fill={c.closed
						? 'var(--color-sheet)'
						: c.date <= year.today
							? 'var(--color-relief2)'
							: 'var(--color-relief4)'}
					stroke={c.closed ? 'var(--color-hair)' : 'none'}
				>
					<title>{day(c.date)}{c.closed ? `: ${c.closed.name}` : ''}</title>
				</rect>
			{/if}
		{/each}
		{#each year.windows as w (w.id)}
			<path
				d="M{x(w.start)} {20 + rows.length * high}H{x(w.end) + step / 7}"
				stroke="var(--color-petrol)"
				stroke-width="3"
			/>
			<text x={x(w.start)} y={34 + rows.length * high} font-size="11.5" fill="var(--color-ink)">{w.name}</text>
		{/each}
		{#if year.today >= year.start && year.today <= year.end}
			<path d="M{x(year.today)} 14V{20 + rows.length * high}" stroke="var(--color-vermilion)" stroke-width="1.600" />
			<text x={x(year.today) + 4} y={34 + rows.length * high} font-size="11" fill="var(--color-vermilion)">today</text>
		{/if}
	</svg>
</div>
<p class="small">
	A filled cell is a school day, darker once it is past; empty cells are closed. Growth and pacing guides count weeks of
	instruction from these.
</p>
