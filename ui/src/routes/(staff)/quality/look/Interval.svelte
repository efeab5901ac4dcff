<script lang="ts">
	import { reliefColor } from '$lib/words/show';

	/** A share with its 95% interval on a line from nothing to everything; the dashed mark is the watch line. */
	let {
		p,
		ci = null,
		line = null,
		width = 92
	}: { p: number | null; ci?: (number | null)[] | null; line?: number | null; width?: number } = $props();
	const x = $derived((v: number) => 4 + v * (width - 8));
</script>

<svg {width} height="16" aria-hidden="true" class="block">
	<path d="M0 8H{width}" stroke="var(--color-hair)" />
	{#if line !== null}<path d="M{x(line)} 1V15" stroke="var(--color-ink2)" stroke-dasharray="2 2" />{/if}
	{#if p !== null}
		{#if ci}<path d="M{x(ci[0] ?? 0)} 8H{x(ci[1] ?? 1)}" stroke="var(--color-relief1)" stroke-width="1.500" />{/if}
		<circle cx={x(p)} cy="8" r="3.800" fill={reliefColor(p)} stroke="var(--color-relief1)" />
	{/if}
</svg>
