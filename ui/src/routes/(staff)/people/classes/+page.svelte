<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="mb-3 flex items-start gap-3">
	<Finding of="Classes" class="flex-1">{shown.data?.finding ?? ''}</Finding>
	{#if shown.chosen.length}
		<Button href="/api/classes/codes.pdf?{shown.ids}" target="_blank" rel="noopener"
			>Tickets for {shown.chosen.length}</Button
		>
		<Button href="/api/classes/codes.pdf?{shown.ids}&cards=false" target="_blank" rel="noopener"
			>Code lists for {shown.chosen.length}</Button
		>
	{/if}
	{#if shown.data && shown.data.years.length > 1}
		<label class="small flex items-center gap-2"
			>Year
			<Select
				value={shown.data.shown}
				choices={shown.data.years.map((y) => ({ value: y.id, label: y.name }))}
				onchange={(to) => shown.choose(to ?? '')}
				class="mt-0 w-auto"
			/>
		</label>
	{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data}
	<div class="mb-2 flex flex-wrap items-center gap-2">
		{#each ['', ...shown.subjects] as s (s)}<button
				class="btn"
				class:!bg-wash={shown.subject === s}
				aria-pressed={shown.subject === s}
				onclick={() => (shown.subject = s)}>{s || 'All'}</button
			>{/each}
		{#if staff.may('classes.run')}
			<Button
				kind="quiet"
				onclick={() => (shown.chosen = shown.chosen.length === shown.shown.length ? [] : shown.shown.map((c) => c.id))}
				>{shown.chosen.length === shown.shown.length && shown.shown.length ? 'Choose none' : 'Select all shown'}</Button
			>
			<span class="small">Print test tickets or code lists for the selected classes, one page each.</span>
		{/if}
	</div>
	<Panel label="Classes">
		<Table within="max-h-[calc(100vh-250px)]">
			<thead
				><tr
					>{#if staff.may('classes.run')}<th class="w-8"></th>{/if}<th>Class</th><th
						>Students, and how many signed in</th
					><th>Teachers</th><th>Grade</th><th>Period</th><th>School</th><th></th></tr
				></thead
			>
			<tbody>
				{#each shown.shown as c (c.id)}
					<tr tabindex="-1" data-row onclick={() => goto(`/people/classes/${c.id}`)}>
						{#if staff.may('classes.run')}
							<td
								><Checkbox
									label="Select {c.title}"
									checked={shown.chosen.includes(c.id)}
									onchange={() => shown.pick(c.id)}
								/></td
							>
						{/if}
						<td class="whitespace-nowrap"><a class="word" href="/people/classes/{c.id}">{c.title}</a></td>
						<td>
							<span class="flex items-center gap-2">
								<span class="relative block h-3.5 bg-relief4" style:width="{(c.students / shown.most) * 150}px"
									><span
										class="absolute inset-y-0 left-0 bg-relief2"
										style:width="{c.students ? (c.signed_in / c.students) * 100 : 0}%"
									></span></span
								>
								<span class="whitespace-nowrap">{c.students}, {c.signed_in || 'none'}</span>
							</span>
						</td>
						<td
							>{#if c.teachers}{c.teachers}{:else}<span class="notch">no teacher</span>{/if}</td
						>
						<td>{c.grade}</td>
						<td>{c.period}</td>
						<td>{c.school}</td>
						<td class="whitespace-nowrap"
							>{#if c.waiting}<b>{c.waiting} to accept</b>{/if}</td
						>
					</tr>
				{:else}
					<tr><td colspan="8" class="text-ink2">No classes. Classes come from the roster or a new school year.</td></tr>
				{/each}
			</tbody>
		</Table>
	</Panel>
{/if}
