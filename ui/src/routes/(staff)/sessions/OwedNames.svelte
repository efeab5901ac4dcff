<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Dialog from '$lib/design/Dialog.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, whole } from '$lib/words/show';

	/** The students behind a number of tests owed, with the reason of each. */
	type Query = Partial<{
		standing: Schemas['Standing'];
		reason: Schemas['Reason'];
		school: string;
		grade: string;
		subject: string;
		test: string;
		klass: string;
		group: string;
	}>;
	let {
		open = $bindable(false),
		title,
		window,
		query
	}: { open?: boolean; title: string; window: string; query: Query } = $props();
	let found = $state<Schemas['OwedNames'] | null>(null);
	let problem = $state('');
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const heading = $derived(`${title[0]?.toUpperCase() ?? ''}${title.slice(1)}`);

	$effect(() => {
		if (!open) return;
		[found, problem] = [null, ''];
		body(api.GET('/api/participation/students', { params: { query: { window, ...query } } }))
			.then((answer) => (found = answer))
			.catch((error) => (problem = said(error)));
	});
</script>

<Dialog bind:open title={found ? `${heading}: ${whole(found.n)} ${found.n === 1 ? 'test' : 'tests'}` : heading} wide>
	{#if problem}<p class="border-l-4 border-vermilion pl-2">{problem}</p>
	{:else if !found}<p class="small" role="status">Loading …</p>
	{:else}
		<Table within="max-h-[52vh] border-y border-hair">
			<thead><tr><th>Student</th><th>Class</th><th>Test</th><th>Why</th><th>Session</th></tr></thead>
			<tbody>
				{#each found.lines as line, at (at)}
					<tr>
						<td><a class="word" href="/people/{line.person}">{staff.name(line.name, line.alias)}</a></td>
						<td>{line.klass || line.school}</td>
						<td>{line.test}</td>
						<td>{line.why}{line.instead ? `; ${line.instead}` : ''}</td>
						<td class="whitespace-nowrap"
							>{#if line.session}<a class="word" href="/sessions/{line.session}?window={window}"
									>{line.on ? dateTime(line.on, zone) : 'open'}</a
								>{:else if line.on}{dateTime(line.on, zone)}{/if}</td
						>
					</tr>
				{/each}
			</tbody>
		</Table>
		{#if found.n > found.lines.length}<p class="small mt-1.5">
				The first {whole(found.lines.length)} are listed; choose a school or class for the rest.
			</p>{/if}
	{/if}
	<div class="mt-3 flex justify-end gap-2">
		{#if query.standing === 'not_scheduled' && staff.may('people.settle')}<Button
				kind="primary"
				href="/sessions/makeups?window={window}">Plan makeups</Button
			>{/if}
		<Button onclick={() => (open = false)}>Close</Button>
	</div>
</Dialog>
