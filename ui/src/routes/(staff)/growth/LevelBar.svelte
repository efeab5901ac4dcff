<script lang="ts">
	import { whole } from '$lib/words/show';

	/** How many are at each level, lowest first, as one bar; the line stands where the goal begins. */
	let { levels, counts, goal = 0 }: { levels: string[]; counts: number[]; goal?: number } = $props();
	const all = $derived(counts.reduce((sum, n) => sum + n, 0));
	const tint = (at: number) =>
		`var(--color-relief${levels.length < 2 ? 3 : Math.round(1 + (4 * at) / (levels.length - 1))})`;
	const light = (at: number) => levels.length > 1 && at / (levels.length - 1) < 0.4;
</script>

<div
	class="flex h-6 w-full overflow-hidden rounded-[3px]"
	role="img"
	aria-label={levels.map((name, at) => `${name}: ${counts[at] ?? 0}`).join(', ')}
>
	{#each levels as name, at (name)}
		{#if counts[at]}
			<span
				class="flex items-center justify-center overflow-hidden text-[12px] {light(at)
					? 'text-white'
					: 'text-ink'} {at + 1 === goal ? 'border-l-[3px] border-ink' : ''}"
				style="flex: {counts[at]} 0 0; background: {tint(at)}"
				title="{name}: {counts[at]}">{(counts[at] ?? 0) / Math.max(1, all) > 0.05 ? whole(counts[at] ?? 0) : ''}</span
			>
		{/if}
	{/each}
</div>
