<script lang="ts">
	import { formats } from '$lib/words/formats.svelte';
	import { scaleTime } from 'd3-scale';
	import type { Schemas } from '$lib/api/client';
	import { day } from '$lib/words/show';

	/** The school year to scale: windows as raised stretches, today as a mark. A click chooses a window. */
	let {
		calendar,
		chosen,
		onchoose
	}: { calendar: Schemas['CalendarOut']; chosen: string | null; onchoose: (id: string) => void } = $props();

	let width = $state(800);
	const low = 35;
	const high = 19;
	const at = (iso: string) => new Date(`${iso}T12:00:00`);
	const x = $derived(scaleTime([at(calendar.start), at(calendar.end)], [10, width - 10]));
	const shown = $derived(calendar.windows.filter((w) => w.end >= calendar.start && w.start <= calendar.end));
	/** Where names of months would touch, every second or third is written. */
	const every = $derived(Math.max(1, Math.ceil((12 * 34) / Math.max(1, width))));
	const months = $derived(
		x
			.ticks(12)
			.filter((d) => d.getDate() === 1)
			.map((d, n) => ({ x: x(d), text: n % every ? '' : d.toLocaleDateString(formats.locale, { month: 'short' }) }))
	);

	function rise(w: Schemas['WindowOut']) {
		const a = x(at(w.start));
		const b = Math.max(x(at(w.end)), a + 12);
		return `L${a - 9} ${low} C${a - 3} ${low} ${a - 4} ${high} ${a + 3} ${high} L${b - 3} ${high} C${b + 4} ${high} ${b + 3} ${low} ${b + 9} ${low}`;
	}
	const line = $derived(`M0 ${low} ${shown.map(rise).join(' ')} L${width} ${low}`);
</script>

<div class="relative h-full min-w-0 flex-1" bind:clientWidth={width}>
	<svg {width} height="52" aria-hidden="true" class="block">
		<path d="{line} L{width} 52 L0 52Z" fill="var(--color-paper)" />
		{#each shown as w (w.id)}
			{#if w.id === chosen}<path d="M{rise(w).slice(1)}Z" fill="var(--color-relief5)" />{/if}
		{/each}
		<path d={line} fill="none" stroke="var(--color-petrol)" stroke-width="1.400" />
		{#each months as m (m.x)}
			<path d="M{m.x} {low}v4" stroke="var(--color-ink2)" />
			<text x={m.x + 4} y="48" font-size="11" fill="var(--color-ink2)">{m.text}</text>
		{/each}
		<path d="M{x(at(calendar.today))} 14V40" stroke="var(--color-vermilion)" stroke-width="1.600" />
		<text x={x(at(calendar.today)) + 4} y="30" font-size="11" fill="var(--color-vermilion)">today</text>
	</svg>
	{#each shown as w (w.id)}
		{@const a = x(at(w.start))}
		{@const b = x(at(w.end))}
		<button
			class="absolute top-0 h-[36px] -translate-x-1/2 cursor-pointer rounded px-2 text-[12px] leading-[17px] hover:underline"
			class:font-bold={w.id === chosen}
			style:left="{(a + b) / 2}px"
			style:min-width="{Math.max(b - a + 18, 56)}px"
			title="{w.name}: {day(w.start)} to {day(w.end)}"
			aria-pressed={w.id === chosen}
			onclick={() => onchoose(w.id)}
		>
			<span class="absolute inset-x-0 top-0">{w.name}</span>
		</button>
	{/each}
</div>
