<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="mb-3 flex items-start gap-4">
	<Finding of="People" class="flex-1">{shown.overview?.finding ?? ''}</Finding>
	{#if shown.overview?.in_no_class && staff.may('people.settle')}<Button kind="quiet" href="/people/check"
			>Students without a class</Button
		>{/if}
	{#if staff.may('people.import')}
		<Button aria-expanded={shown.importing} onclick={() => (shown.importing = !shown.importing)}>Import roster</Button>
	{/if}
</div>
<Notice text={shown.problem} />
{#if shown.importing}
	<div class="mb-3">
		<ImportPanel
			kind="people"
			accept=".zip,.csv,.xlsx,.tsv"
			hint="OneRoster 1.1 or 1.2, whole or changes only: one zip, or its CSV files together. Or any one sheet, CSV or XLSX, whose columns you match here."
			sample={[
				{ href: '/samples/hollin-moor-roster.zip', text: 'roster of a small school' },
				{ href: '/samples/hollin-moor-sheet.csv', text: 'the same as one sheet' }
			]}
			onapplied={shown.load}
		/>
	</div>
{/if}
{#if shown.overview && shown.overview.students > 0}
	<div class="grid grid-cols-[minmax(0,1fr)_230px] items-start gap-3">
		<Panel>
			<div class="flex gap-2 border-b border-hair p-2">
				<!-- svelte-ignore a11y_autofocus (finding somebody is what this page is for) -->
				<input
					class="input mt-0 min-w-0 flex-1"
					data-find
					type="search"
					autofocus
					placeholder="Find by initials, name, sign-in code or number; Enter opens the first"
					aria-label="Find by initials, name, sign-in code or number"
					value={shown.find}
					oninput={shown.typed}
					onkeydown={shown.open}
				/>
				{#each shown.KINDS as [value, word] (value)}<button
						class="btn"
						class:!bg-wash={shown.kind === value}
						aria-pressed={shown.kind === value}
						onclick={() => ((shown.kind = value), void shown.search(shown.find))}>{word}</button
					>{/each}
			</div>
			<Table within="max-h-[calc(100vh-250px)]">
				<thead
					><tr><th>Name</th><th>Grade</th><th>Sign-in code</th><th>Classes</th><th>Role</th><th>School</th></tr></thead
				>
				<tbody>
					{#each shown.found?.people ?? [] as person, at (person.id)}
						<tr tabindex="-1" data-row onclick={() => goto(`/people/${person.id}`)}>
							<td class="whitespace-nowrap"
								><a class="word" href="/people/{person.id}"
									>{person.kind === 'staff' ? person.name : staff.name(person.name, at)}</a
								></td
							>
							<td>{person.grade}</td>
							<td><code>{staff.veiled ? '·····' : (person.code ?? '')}</code></td>
							<td class="w-[34%] max-w-0 truncate" title={person.classes}>{person.classes}</td>
							<td>{person.roles}</td>
							<td class="whitespace-nowrap">{person.school}</td>
						</tr>
					{:else}
						<tr><td colspan="6" class="text-ink2">No one matches. Try part of a name.</td></tr>
					{/each}
				</tbody>
			</Table>
			{#if shown.found && shown.found.total > shown.found.people.length}
				<p class="small border-t border-hair p-2">
					The first {shown.found.people.length} of {shown.found.total}; search to narrow the list.
				</p>
			{/if}
		</Panel>
		<Panel label="Students by grade" class="p-3">
			<div class="small mb-2">Students by grade</div>
			{#each shown.overview.grades as g (g.grade)}
				<div class="mb-1.5 flex items-center gap-2 text-[13px]">
					<span class="w-5 text-right">{g.grade || '–'}</span>
					<span class="h-3 bg-relief2" style:width="{(g.students / shown.most) * 130}px"></span>
					<span>{g.students}</span>
				</div>
			{/each}
			<p class="small mt-3">
				Students enter their sign-in code to take a test. The codes of a class are on its session page.
			</p>
		</Panel>
	</div>
{/if}
