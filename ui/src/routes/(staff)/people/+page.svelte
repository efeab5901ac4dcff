<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';

	let overview = $state<Schemas['PeopleOverview'] | null>(null);
	let found = $state<Schemas['PeopleOut'] | null>(null);
	let problem = $state('');
	let importing = $state(false);
	let asked = 0;
	let kind = $state('');
	const KINDS = [
		['', 'Everybody'],
		['student', 'Students'],
		['staff', 'Staff'],
		['family', 'Families']
	] as const;

	const find = $derived(page.url.searchParams.get('find') ?? '');
	const most = $derived(Math.max(1, ...(overview?.grades ?? []).map((g) => g.students)));

	onMount(load);
	async function load() {
		try {
			overview = await body(api.GET('/api/people/overview'));
			importing = importing || (overview.students === 0 && staff.may('people.import'));
			await search(find);
		} catch (error) {
			problem = said(error);
		}
	}

	async function search(text: string) {
		const mine = ++asked;
		const answer = await body(api.GET('/api/people', { params: { query: { find: text, kind, limit: 200 } } }));
		if (mine === asked) found = answer;
	}

	/** Enter opens whoever stands first: two initials and Enter are three keystrokes. */
	function open(event: KeyboardEvent) {
		const first = found?.people[0];
		if (event.key === 'Enter' && first && find) void goto(`/people/${first.id}`);
	}

	function typed(event: Event) {
		const text = (event.target as HTMLInputElement).value;
		const url = new URL(page.url);
		if (text) url.searchParams.set('find', text);
		else url.searchParams.delete('find');
		void goto(url, { replaceState: true, keepFocus: true, noScroll: true });
		void search(text).catch((error) => (problem = said(error)));
	}
</script>

<svelte:head><title>People · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-4">
	<h1 class="flex-1">{overview?.finding ?? ''}</h1>
	{#if overview?.in_no_class && staff.may('people.settle')}<a class="btn quiet" href="/people/check"
			>Students without a class</a
		>{/if}
	{#if staff.may('people.import')}
		<button class="btn" aria-expanded={importing} onclick={() => (importing = !importing)}>Bring in a roster</button>
	{/if}
</div>
<Notice text={problem} />
{#if importing}
	<div class="mb-3">
		<ImportPanel
			kind="people"
			accept=".zip,.csv,.xlsx,.tsv"
			hint="OneRoster 1.1 or 1.2, whole or changes only: one zip, or its CSV files together. Or any one sheet, CSV or XLSX, whose columns you match here."
			sample={[
				{ href: '/samples/hollin-moor-roster.zip', text: 'roster of a small school' },
				{ href: '/samples/hollin-moor-sheet.csv', text: 'the same as one sheet' }
			]}
			onapplied={load}
		/>
	</div>
{/if}
{#if overview && overview.students > 0}
	<div class="grid grid-cols-[minmax(0,1fr)_230px] items-start gap-3">
		<section class="sheet">
			<div class="flex gap-2 border-b border-hair p-2">
				<!-- svelte-ignore a11y_autofocus (finding somebody is what this page is for) -->
				<input
					class="input !mt-0 min-w-0 flex-1"
					data-find
					type="search"
					autofocus
					placeholder="Find by initials, name, own code or number; Enter opens the first"
					aria-label="Find by initials, name, own code or number"
					value={find}
					oninput={typed}
					onkeydown={open}
				/>
				{#each KINDS as [value, word] (value)}<button
						class="btn"
						class:!bg-wash={kind === value}
						aria-pressed={kind === value}
						onclick={() => ((kind = value), void search(find))}>{word}</button
					>{/each}
			</div>
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-250px)]">
				<table>
					<thead
						><tr><th>Name</th><th>Grade</th><th>Own code</th><th>Classes</th><th>Role</th><th>School</th></tr></thead
					>
					<tbody>
						{#each found?.people ?? [] as person, at (person.id)}
							<tr tabindex="-1" data-row onclick={() => goto(`/people/${person.id}`)}>
								<td
									><a class="word" href="/people/{person.id}"
										>{person.kind === 'staff' ? person.name : staff.name(person.name, at)}</a
									></td
								>
								<td>{person.grade}</td>
								<td><code>{staff.veiled ? '·····' : (person.code ?? '')}</code></td>
								<td class="max-w-[300px] truncate">{person.classes}</td>
								<td>{person.roles}</td>
								<td>{person.school}</td>
							</tr>
						{:else}
							<tr><td colspan="6" class="text-ink2">Nobody fits. Try part of a name.</td></tr>
						{/each}
					</tbody>
				</table>
			</div>
			{#if found && found.total > found.people.length}
				<p class="small border-t border-hair p-2">The first {found.people.length} of {found.total}; find narrows it.</p>
			{/if}
		</section>
		<section class="sheet p-3" aria-label="Students by grade">
			<div class="small mb-2">Students by grade</div>
			{#each overview.grades as g (g.grade)}
				<div class="mb-1.5 flex items-center gap-2 text-[13px]">
					<span class="w-5 text-right">{g.grade || '–'}</span>
					<span class="h-3 bg-relief2" style:width="{(g.students / most) * 130}px"></span>
					<span>{g.students}</span>
				</div>
			{/each}
			<p class="small mt-3">
				Own codes are what students type to sit a test. A class's codes stand on its session page.
			</p>
		</section>
	</div>
{/if}
