<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="small mb-1"><a class="word" href="/bank">Bank</a> · Gaps</div>
<Finding of="Gaps in the bank" class="mb-3">{shown.data?.finding ?? ''}</Finding>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data}
	<div class="grid grid-cols-[minmax(0,1.2fr)_minmax(0,1fr)] items-start gap-3">
		<Panel label="Standards with too few items">
			<h2 class="border-b border-hair px-4 py-2.5">
				Standards with fewer than {shown.data.enough} items
				<span class="small font-normal">{shown.data.counts.thin}</span>
			</h2>
			{#if shown.data.thin.length}
				<div class="flex flex-wrap gap-4 px-4 pt-2 text-[12.5px]">
					{#each shown.PARTS as [, word, fill] (word)}<span class="flex items-center gap-1.5"
							><span class="block size-3 border border-ink2" style:background={fill}></span>{word}</span
						>{/each}<span class="ml-auto text-ink2">at depth 1 · 2 · 3 · 4</span>
				</div>
				<ul class="px-4 py-2">
					{#each shown.data.thin as t (t.code)}
						<li class="flex items-center gap-3 border-b border-hair2 py-1 text-[13px] last:border-b-0">
							<span class="w-[92px] flex-none"><StandardCode code={t.code} /></span>
							<span class="min-w-0 flex-1 truncate" title={t.text}
								>{t.priority ? '◆ ' : ''}{t.text || 'no text yet'}</span
							>
							<span
								class="flex flex-none"
								role="img"
								aria-label="{t.items} of {shown.data
									.enough}: {t.easy} easy, {t.middle} in between, {t.hard} hard, {t.unknown} not used yet"
							>
								{#each shown.PARTS as [name, , fill] (name)}{#each { length: t[name] } as _, at (at)}<span
											class="mr-[2px] block size-3.5 border border-ink2"
											style:background={fill}
										></span>{/each}{/each}
								{#each { length: Math.max(0, shown.data.enough - t.items) } as _, at (at)}<span
										class="mr-[2px] block size-3.5 border border-dashed border-relief3"
									></span>{/each}
							</span>
							<span class="w-[74px] flex-none text-right text-ink2" title="items at depth 1, 2, 3 and 4"
								>{t.depths.join(' · ')}</span
							>
							<a class="word w-6 flex-none text-right" href="/bank?find=standard:{encodeURIComponent(t.code)}"
								>{t.items}</a
							>
						</li>
					{/each}
				</ul>
				{#if shown.data.counts.thin! > shown.data.thin.length}<p class="small px-4 pb-2">
						The first {shown.data.thin.length} are shown.
					</p>{/if}
			{:else}<p class="p-6 text-ink2">
					{shown.data.standards
						? `Each of the ${shown.data.standards} standards has at least ${shown.data.enough}.`
						: 'No standards yet. Import a framework to see where items are missing.'}
				</p>{/if}
		</Panel>
		<div class="flex flex-col gap-3">
			{#each shown.LISTS as [name, title] (name)}
				<Panel label={title}>
					<h2 class="px-4 py-2.5 {shown.data[name].length ? 'border-b border-hair' : ''}">
						{title} <span class="small font-normal">{shown.data.counts[name] || 'none'}</span>
					</h2>
					{#if shown.data[name].length}
						<ul class="max-h-[280px] overflow-y-auto px-4 py-1">
							{#each shown.data[name] as w (w.code)}<li class="flex min-h-7 items-center gap-3 text-[13px]">
									<a class="word" href="/bank/items/{w.item_id}"><code>{w.code}</code></a><StandardCode
										code={w.standard}
									/><span class="flex-1">{w.what}</span>
								</li>{/each}
						</ul>
					{/if}
				</Panel>
			{/each}
		</div>
	</div>
{/if}
