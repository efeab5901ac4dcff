<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import ItemLabel from '$lib/parts/ItemLabel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { percent, reliefColor, short } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="small mb-1"><a class="word" href="/quality">Item quality</a> · item decisions</div>
<Finding of="Item decisions" station="Item quality" class="mb-3">{shown.data?.finding ?? ''}</Finding>
<Notice text={shown.problem} />
{#if shown.data?.undecided.length}
	<Panel label="Items to decide" class="mb-3">
		<div class="small flex items-center gap-4 border-b border-hair px-3 py-1.5">
			<h2>To decide</h2>
			{#if shown.subjects.length > 1}<Select
					label="Subject"
					choices={[{ value: '', label: 'all subjects' }, ...shown.subjects.map((s) => ({ value: s, label: s }))]}
					bind:value={shown.subject}
					small
					class="w-auto"
				/>{/if}<span class="ml-auto">From the latest administration; possible errors come first.</span>
		</div>
		<Table within="max-h-[420px]">
			<thead
				><tr
					><th>Item</th><th>Taken in</th><th class="n">Students</th><th class="n">Correct</th><th class="n"
						>Discrimination</th
					><th>Reason for review</th></tr
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
									>; flagged again after a decision</span
								>{/if}</td
						></tr
					>
				{/each}
			</tbody>
		</Table>
	</Panel>
{/if}
{#if shown.data?.items.length}
	<Panel label="Decisions">
		<div class="small flex items-center gap-4 border-b border-hair px-3 py-1.5">
			<h2>Decided</h2>
			<Checkbox bind:checked={shown.open}>only open decisions</Checkbox><span class="ml-auto"
				>Items to rework or drop are excluded from the next form.</span
			>
		</div>
		<Table within="max-h-[640px]">
			<thead
				><tr
					><th>Item</th><th>For</th><th>Decision</th><th>Why</th><th>By</th><th>Since</th><th>After</th><th>Waits</th
					></tr
				></thead
			>
			<tbody>
				{#each shown.shown as i (i.item_id)}
					<tr
						><td class="whitespace-nowrap"><ItemLabel code={i.item} text={i.text} href="/bank/items/{i.item_id}" /></td
						><td class="whitespace-nowrap">{i.subject} {i.grade}</td><td class="font-semibold whitespace-nowrap"
							>{i.latest.words}</td
						><td class="whitespace-normal">{i.latest.reason}</td><td class="whitespace-nowrap">{i.latest.by}</td><td
							class="whitespace-nowrap">{shown.since(i.latest.at)}</td
						><td class="text-ink2">{i.latest.where}</td><td class={i.done ? 'text-ink2' : ''}
							>{i.done ? 'done' : i.waits_for}</td
						></tr
					>
				{:else}<tr><td colspan="8" class="text-ink2">No open decisions.</td></tr>{/each}
			</tbody>
		</Table>
	</Panel>
{:else if shown.data && !shown.data.undecided.length}<p class="sheet p-6 text-ink2">
		Decisions from item pages (keep, rework, drop, or field-test again) stay here until they are done.
	</p>{/if}
