<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { hue, percent } from '$lib/words/show';

	/** An item's answers as one bar, in option order, each as wide as its share; the key's is underlined. */
	let {
		options,
		notReached = 0,
		width
	}: { options: Schemas['OptionRowOut'][]; notReached?: number; width: number } = $props();

	const answers = $derived(options.filter((o) => o.kind === 'answer'));
	const total = $derived(answers.reduce((sum, o) => sum + o.n, 0) + notReached);
	const parts = $derived.by(() => {
		let x = 0;
		return answers.map((o, place) => {
			const w = total ? (o.n / total) * width : 0;
			const part = { ...o, x, w, place, last: o.option === '' };
			x += w;
			return part;
		});
	});
	const words = $derived(
		answers
			.filter((o) => o.n)
			.map((o) => `${o.option || 'omitted'}${o.is_key ? ' (key)' : ''} ${percent(o.share)}`)
			.join(', ')
	);
</script>

<svg {width} height="20" role="img" aria-label={words} class="block">
	<title>{words}</title>
	<defs
		><pattern id="unreached" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
			><rect width="4" height="4" fill="var(--color-white)" /><rect
				width="1.500"
				height="4"
				fill="var(--color-ink2)"
			/></pattern
		></defs
	>
	{#each parts as p (p.option + p.place)}
		{#if p.w > 0}
			<rect
				x={p.x}
				y="2"
				width={Math.max(0.5, p.w - 1)}
				height="13"
				fill={p.last ? 'var(--color-white)' : hue(p.place)}
				stroke={p.last ? 'var(--color-ink2)' : 'none'}
				stroke-width=".8"
			/>
			{#if p.place >= 5 && !p.last}<path
					d="M{p.x} 8.500H{p.x + p.w - 1}"
					stroke="var(--color-white)"
					stroke-width="2"
				/>{/if}
			{#if p.is_key}<rect x={p.x} y="16.500" width={Math.max(0.5, p.w - 1)} height="3" fill="var(--color-ink)" />{/if}
			{#if p.w > 11 && p.option && p.option.length <= Math.max(1, p.w / 8)}<text
					x={p.x + p.w / 2 - 0.5}
					y="12.500"
					font-size="10.500"
					font-weight="650"
					fill="var(--color-white)"
					text-anchor="middle">{p.option}</text
				>{/if}
		{/if}
	{/each}
	{#if notReached && total}<rect
			x={width - (notReached / total) * width}
			y="2"
			width={(notReached / total) * width}
			height="13"
			fill="url(#unreached)"
		/>{/if}
</svg>
