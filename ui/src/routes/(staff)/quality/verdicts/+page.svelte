<script lang="ts">
	import ItemLabel from '$lib/parts/ItemLabel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { percent, reliefColor, short } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<svelte:head><title>Verdicts · Item quality · Bildung</title></svelte:head>

<div class="small mb-1"><a class="word" href="/quality">Item quality</a> · verdicts on items</div>
<h1 class="mb-3">{shown.data?.finding ?? ''}</h1>
<Notice text={shown.problem} />
{#if shown.data?.undecided.length}
	<section class="sheet mb-3" aria-label="Items that want a verdict">
		<div class="small flex items-center gap-4 border-b border-hair px-3 py-1.5">
			<h2>Want a verdict</h2>
			{#if shown.subjects.length > 1}<select
					class="rounded border border-[#8d9b98] bg-sheet px-1.5 py-0.5 text-ink"
					aria-label="Subject"
					bind:value={shown.subject}
					><option value="">all subjects</option>{#each shown.subjects as s (s)}<option>{s}</option>{/each}</select
				>{/if}<span class="ml-auto">The last time each was sat; what may be wrong comes first.</span>
		</div>
		<div {@attach scrollable} class="frozen max-h-[420px]">
			<table>
				<thead
					><tr
						><th>Item</th><th>Sat in</th><th class="n">Students</th><th class="n">Got it</th><th class="n">Separates</th
						><th>Wants a look because</th></tr
					></thead
				>
				<tbody>
					{#each shown.wanting as u (u.item_id)}
						<tr
							><td class="whitespace-nowrap"><ItemLabel code={u.item} text={u.text} href={shown.judge(u)} /></td><td
								class="whitespace-nowrap">{u.form} <span class="text-ink2">{u.window} {u.at.slice(0, 4)}</span></td
							><td class="n">{u.n}</td><td class="n whitespace-nowrap"
								><svg width="64" height="10" class="mr-1.5 inline-block" aria-hidden="true"
									><rect width="64" height="8" y="1" fill="var(--color-wash)" /><rect
										width={(u.p ?? 0) * 64}
										height="8"
										y="1"
										fill={reliefColor(u.p)}
									/></svg
								><span class="inline-block w-[42px]">{percent(u.p)}</span></td
							><td class="n">{short(u.r_rest)}</td><td class="whitespace-normal"
								>{#if u.urgent}<span class="notch">{u.flags[0]}</span>{u.flags.length > 1
										? `, ${u.flags.slice(1).join(', ')}`
										: ''}{:else}{u.flags.join(', ')}{/if}{#if u.again}<span class="text-ink2"
										>; again, after a verdict</span
									>{/if}</td
							></tr
						>
					{/each}
				</tbody>
			</table>
		</div>
	</section>
{/if}
{#if shown.data?.items.length}
	<section class="sheet" aria-label="Verdicts">
		<div class="small flex items-center gap-4 border-b border-hair px-3 py-1.5">
			<h2>Decided</h2>
			<label class="flex min-h-[24px] items-center gap-1.5"
				><input type="checkbox" bind:checked={shown.open} /> only what is open</label
			><span class="ml-auto">What is to be reworked or dropped is left out of the next form.</span>
		</div>
		<div {@attach scrollable} class="frozen max-h-[640px]">
			<table>
				<thead
					><tr
						><th>Item</th><th>For</th><th>Verdict</th><th>Why</th><th>By</th><th>Since</th><th>After</th><th>Waits</th
						></tr
					></thead
				>
				<tbody>
					{#each shown.shown as i (i.item_id)}
						<tr
							><td class="whitespace-nowrap"
								><ItemLabel code={i.item} text={i.text} href="/bank/items/{i.item_id}" /></td
							><td class="whitespace-nowrap">{i.subject} {i.grade}</td><td class="font-semibold whitespace-nowrap"
								>{i.latest.words}</td
							><td class="whitespace-normal">{i.latest.reason}</td><td class="whitespace-nowrap">{i.latest.by}</td><td
								class="whitespace-nowrap">{shown.since(i.latest.at)}</td
							><td class="text-ink2">{i.latest.where}</td><td class={i.done ? 'text-ink2' : ''}
								>{i.done ? 'done' : i.waits_for}</td
							></tr
						>
					{:else}<tr><td colspan="8" class="text-ink2">Nothing is open.</td></tr>{/each}
				</tbody>
			</table>
		</div>
	</section>
{:else if shown.data && !shown.data.undecided.length}<p class="sheet p-6 text-ink2">
		An item's page in Item quality asks: keep, rework, drop or field-test again. What was decided stands here until it
		is done.
	</p>{/if}
