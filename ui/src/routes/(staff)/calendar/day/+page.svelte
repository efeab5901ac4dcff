<script lang="ts">
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, time } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** A day of testing: each session with only what is missing, and the day on paper. */
	let { data }: PageProps = $props();
	let problem = $derived(data.problem);
	const found = $derived(data.found);
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const days = $derived([...new Set([...(found?.days ?? []), found?.day ?? ''])].filter(Boolean).sort());
	const print = (sheet: string) => `/api/planning/schools/${found?.school}/days/${found?.day}/${sheet}.pdf`;

	function go(name: string, value: string) {
		const url = new URL(page.url);
		url.searchParams.set(name, value);
		if (name === 'school') url.searchParams.delete('day');
		void goto(url, { keepFocus: true, noScroll: true });
	}
</script>

<div class="small mb-1"><a class="word" href="/calendar?school={found?.school ?? ''}">Calendar</a></div>
<div class="mb-3 flex flex-wrap items-start gap-2">
	<Finding of="Testing day" class="min-w-[360px] flex-1">{found?.finding ?? ''}</Finding>
	{#if found}
		{#if found.schools.length > 1}<Select
				class="w-[210px]"
				label="School"
				value={found.school}
				choices={found.schools.map((s) => ({ value: s.id, label: s.name }))}
				onchange={(school) => go('school', school)}
			/>{/if}
		{#if days.length > 1}<Select
				class="w-[150px]"
				label="Day"
				value={found.day}
				choices={days.map((d) => ({ value: d, label: day(d) }))}
				onchange={(to) => go('day', to)}
			/>{/if}
		{#if found.lines.length}
			<Button href={print('schedule')} target="_blank" rel="noopener">Print schedule</Button>
			<Button href={print('rosters')} target="_blank" rel="noopener">Print rosters</Button>
			{#if staff.may('windows.plan')}<Button href={print('record')} target="_blank" rel="noopener"
					>Print the record</Button
				>{/if}
			<Button href={print('week')} target="_blank" rel="noopener">Print week plans</Button>
			{#if staff.may('windows.plan')}<Button href={print('support')} target="_blank" rel="noopener"
					>Print support</Button
				>{/if}
		{/if}
	{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if found}
	<Table within="sheet" label="Sessions of the day" rows={found.lines.length} empty="No session on this day.">
		<thead
			><tr
				><th>Time</th><th>Test</th><th>Class</th><th>Room</th><th>Proctor</th><th class="n">Students</th><th>Missing</th
				></tr
			></thead
		>
		<tbody>
			{#each found.lines as line (line.session)}
				<tr class="align-top">
					<td class="whitespace-nowrap">{time(line.start, zone)} to {time(line.end, zone)}</td>
					<td><a class="word" href="/sessions/{line.session}">{line.title}</a></td>
					<td>{line.klass}</td>
					<td>{line.room || '–'}</td>
					<td>{line.proctor || '–'}</td>
					<td class="n">{line.students}</td>
					<td
						>{#each line.missing as one, n (n)}{n ? ', ' : ''}<a
								class="word {one.says.startsWith('tickets') ? '' : 'notch'}"
								href={one.path}>{one.says}</a
							>{:else}<span class="text-ink2">ready</span>{/each}</td
					>
				</tr>
			{/each}
		</tbody>
	</Table>
{/if}
