<script lang="ts">
	import ScoreOutlook from '$lib/parts/ScoreOutlook.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import type { FormPage } from './form.svelte';

	/** What the form holds of each standard, and what it is likely to do. texts: of standards, by code. */
	let { shown, texts }: { shown: FormPage; texts: Map<string, string> } = $props();
	const form = $derived(shown.form);
	const outlook = $derived(shown.outlook);
	const most = $derived(Math.max(1, ...(form?.coverage ?? []).map((c) => Number(c.value))));
</script>

{#if form && shown.draft && form.coverage.length}
	<div class="flex flex-wrap gap-x-4 gap-y-1 border-b border-hair px-3 py-2">
		{#each form.coverage as { name: code, value: n } (code)}
			<span class="flex items-center gap-1.5 text-[12.5px]" title={texts.get(code)}
				><code>{code}</code><span class="h-2.5 bg-relief3" style:width="{(Number(n) / most) * 36}px"></span>{n}</span
			>
		{/each}
	</div>
{/if}
{#if form && outlook && form.items.length}
	<div class="border-b border-hair p-3" aria-label="Outlook" role="group">
		<p class="mb-2 text-[13.5px]">{outlook.finding}</p>
		{#if !form.settings.draw}<ScoreOutlook predicted={outlook.predicted} />{/if}
		{#if outlook.held.length}
			<details class="mt-2 text-[12.5px]" open={outlook.held.some((h) => h.says)}>
				<summary>The blueprint, row by row</summary>
				<div
					class="mt-1 grid max-h-44 grid-cols-[minmax(0,1fr)_70px_auto] items-center gap-x-3 overflow-auto"
					{@attach scrollable}
				>
					{#each outlook.held as h, at (at)}
						<span class="truncate" title={texts.get(h.name)}>{h.name}</span>
						<span class="relative block h-2.5 bg-hair2"
							><span
								class="absolute inset-y-0 left-0 {h.says ? 'bg-relief2' : 'bg-relief3'}"
								style:width="{Math.min(100, (100 * h.have) / Math.max(1, h.high))}%"
							></span></span
						>
						<span class={h.says ? 'font-semibold' : 'text-ink2'}
							>{h.have} of {h.low === h.high ? h.low : `${h.low} to ${h.high}`} {h.count}</span
						>
					{/each}
				</div>
			</details>
		{/if}
	</div>
{/if}
