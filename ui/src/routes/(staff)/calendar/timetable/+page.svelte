<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import ToggleSet from '$lib/design/ToggleSet.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import SchoolHead from '../SchoolHead.svelte';
	import { Times } from './timetable.svelte';
	import type { PageProps } from './$types';

	/** In which blocks each class meets: what plans in lessons and hours of teachers rest on. */
	let { data }: PageProps = $props();
	let problem = $derived(data.problem);
	const shown = $derived(data.found ? new Times(data.found) : null);
	let grade = $state('');
	const page = $derived(shown?.page ?? null);
	const grades = $derived([...new Set(page?.lines.map((line) => line.grade) ?? [])]);
	const lines = $derived(page?.lines.filter((line) => !grade || line.grade === grade) ?? []);
	const changes = $derived(shown?.changed.length ?? 0);
</script>

<div class="small mb-1">
	<a class="word" href="/calendar?school={page?.school ?? ''}">Calendar</a> ·
	<a class="word" href="/calendar/resources?school={page?.school ?? ''}">Rooms, bells and staff</a>
</div>
{#if shown && page}
	<SchoolHead
		of="Class timetable"
		path="/calendar/timetable"
		{page}
		imports={page.may && page.blocks.length > 0}
		hint="CSV or XLSX: class, day and block in each row; or class and a column for each kind of day with its blocks."
		paste={`class\t${shown.days.map((d) => d.name).join('\t')}\n${page.lines[0]?.title ?? 'Mathematics 6.1'}\t${shown.days.map((d) => d.blocks[0]?.label ?? '').join('\t')}`}
		reload="bildung:timetable"
		bind:problem={shown.problem}
	>
		{#if grades.length > 1}<Select
				class="w-[120px]"
				label="Grade"
				bind:value={grade}
				choices={[{ value: '', label: 'All grades' }, ...grades.map((g) => ({ value: g, label: `Grade ${g}` }))]}
			/>{/if}
		{#if page.may && page.blocks.length}<Button
				kind="primary"
				disabled={shown.busy || !changes}
				onclick={() => shown?.save()}
				>{changes ? `Save ${changes} ${changes === 1 ? 'class' : 'classes'}` : 'Save'}</Button
			>{/if}
	</SchoolHead>
	{#if page.blocks.length}
		<Table
			rows={lines.length}
			empty="This school has no classes beside homerooms."
			within="sheet max-h-[calc(100vh-210px)]"
		>
			<thead
				><tr
					><th>Class</th><th>Teacher</th><th>Room</th>{#each shown.days as day (day.name)}<th>Day {day.name}</th
						>{/each}</tr
				></thead
			>
			<tbody>
				{#each lines as line (line.klass)}
					<tr
						><td>{line.title}</td><td>{line.teacher || '–'}</td><td>{line.room || '–'}</td
						>{#each shown.days as day (day.name)}<td
								><ToggleSet
									label="{line.title}, day {day.name}"
									choices={day.blocks}
									marked={line.twice}
									disabled={!page.may}
									bind:value={
										() => shown!.of(line.klass, day.name), (blocks) => shown!.set(line.klass, day.name, blocks)
									}
								/></td
							>{/each}</tr
					>
				{/each}
			</tbody>
		</Table>
		{#if page.lines.some((line) => line.twice.length)}<p class="small mt-2">
				Red: the teacher has another class in this block.
			</p>{/if}
	{:else}
		<p class="sheet p-4 text-[14px]">
			Enter a bell schedule first, under <a class="word" href="/calendar/resources?school={page.school}"
				>Rooms, bells and staff</a
			>.
		</p>
	{/if}
{:else}
	<Notice text={problem} onclose={() => (problem = '')} />
{/if}
