<script lang="ts">
	import { Pagination } from 'bits-ui';

	/** A long list, some rows at a time. */
	let {
		page = $bindable(1),
		count,
		each,
		label,
		onchange = () => {}
	}: { page?: number; count: number; each: number; label: string; onchange?: (page: number) => void } = $props();
</script>

{#if count > each}
	<Pagination.Root
		bind:page={() => page, (to) => ((page = to), onchange(to))}
		{count}
		perPage={each}
		class="mt-2 flex flex-wrap items-center gap-1"
		aria-label={label}
	>
		{#snippet children({ pages, range })}
			<Pagination.PrevButton class="btn quiet">Previous</Pagination.PrevButton>
			{#each pages as shown (shown.key)}
				{#if shown.type === 'ellipsis'}<span class="px-1 text-ink2">…</span>
				{:else}<Pagination.Page class="btn quiet data-[selected]:font-bold" page={shown}>{shown.value}</Pagination.Page
					>{/if}
			{/each}
			<Pagination.NextButton class="btn quiet">Next</Pagination.NextButton>
			<span class="small ml-2 whitespace-nowrap">{range.start} to {range.end} of {count}</span>
		{/snippet}
	</Pagination.Root>
{/if}
