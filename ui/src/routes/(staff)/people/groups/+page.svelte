<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import RuleField from './RuleField.svelte';

	/** Groups across classes, and a table to set needs and groups of many at once. */
	let data = $state<Schemas['GroupsOut'] | null>(null);
	let problem = $state('');
	let making = $state(false);
	let many = $state(false);
	let name = $state('');
	let byRule = $state(true);
	let rule = $state('');
	let tried = $state<Schemas['TriedRule'] | null>(null);
	let known = $state<string[]>([]);
	const coordinator = $derived(staff.may('support.write'));
	const mostNeeded = $derived(Math.max(1, ...(data?.needs ?? []).map((n) => Number(n.value))));
	const several = $derived(new Set((data?.groups ?? []).map((g) => g.school)).size > 1);
	const most = $derived(Math.max(1, ...(data?.groups ?? []).map((g) => g.members)));

	onMount(load);
	async function load() {
		try {
			data = await body(api.GET('/api/groups'));
			if (coordinator) known = (await body(api.GET('/api/people/support/columns'))).columns;
			else byRule = false;
		} catch (error) {
			problem = said(error);
		}
	}
	async function make(event: SubmitEvent) {
		event.preventDefault();
		try {
			const made = await body(
				api.POST('/api/groups', { body: { name, rule: byRule ? rule : null, school_id: null, members: [] } })
			);
			await goto(`/people/groups/${made.id}`);
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<svelte:head><title>Groups and needs · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">{data?.finding ?? ''}</h1>
	{#if coordinator}<button class="btn" aria-expanded={many} onclick={() => (many = !many)}>Set many at once</button
		>{/if}
	{#if staff.may('groups.write')}<button class="btn primary" aria-expanded={making} onclick={() => (making = !making)}
			>New group</button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if many}
	<div class="mb-3">
		<ImportPanel
			kind="support"
			accept=".csv,.tsv,.xlsx"
			hint="One row a student. Columns: {known.join(
				', '
			)}. An empty cell leaves things as they are, no takes something back."
			paste={'student number\textra time\tread aloud\tgroup\nBM-S0012\t1.25\tyes\tReading lift'}
			onapplied={load}
		/>
	</div>
{/if}
{#if making}
	<form class="sheet mb-3 flex flex-col gap-3 p-4" onsubmit={make}>
		<div class="flex flex-wrap items-end gap-4">
			<label class="field w-72">Name<input class="input" bind:value={name} maxlength="80" required /></label>
			{#if coordinator}
				<label class="flex min-h-8 items-center gap-2 text-[14px]"
					><input type="radio" class="size-5" bind:group={byRule} value={true} />by a rule</label
				>
				<label class="flex min-h-8 items-center gap-2 text-[14px]"
					><input type="radio" class="size-5" bind:group={byRule} value={false} />named one by one</label
				>
			{/if}
			<button class="btn primary" disabled={byRule && (!tried || !!tried.problem)}>Make it</button>
		</div>
		{#if byRule}<RuleField bind:rule bind:tried allowed={data?.allowed ?? ''} />{:else}<p class="small">
				Its students are chosen on its page.
			</p>{/if}
	</form>
{/if}
{#if data}
	<div class="grid items-start gap-3 {data.needs.length ? 'grid-cols-[minmax(0,1fr)_230px]' : ''}">
		<section class="sheet" aria-label="Groups">
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-230px)]">
				<table>
					<thead
						><tr
							><th>Group</th><th>Students</th><th>Who is in it</th><th>Works with it</th>{#if several}<th>School</th
								>{/if}</tr
						></thead
					>
					<tbody>
						{#each data.groups as g (g.id)}
							<tr tabindex="-1" data-row onclick={() => goto(`/people/groups/${g.id}`)}>
								<td><a class="word" href="/people/groups/{g.id}">{g.name}</a></td>
								<td
									><span class="flex items-center gap-2"
										><span class="block h-3 bg-relief2" style:width="{(g.members / most) * 110}px"
										></span>{g.members}</span
									></td
								>
								<td
									>{#if g.rule}<code>{g.rule}</code>{:else}named one by one{g.owner ? ` by ${g.owner}` : ''}{/if}</td
								>
								<td>{g.staff}</td>
								{#if several}<td>{g.school}</td>{/if}
							</tr>
						{:else}
							<tr
								><td colspan="5" class="p-6 text-ink2"
									>Groups will stand here: by a rule such as <code>grade 6 and extra time</code>, or named one by one.</td
								></tr
							>
						{/each}
					</tbody>
				</table>
			</div>
		</section>
		{#if data.needs.length}
			<section class="sheet p-3" aria-label="Needs">
				<div class="small mb-2">Students who need it in a test</div>
				{#each data.needs as n (n.name)}
					<div class="mb-1.5 flex items-center gap-2 text-[13px]">
						<span class="w-[96px]">{n.name}</span><span
							class="h-3 bg-relief2"
							style:width="{(Number(n.value) / mostNeeded) * 70}px"
						></span><span>{n.value}</span>
					</div>
				{/each}
				<p class="small mt-3">
					Each is set on the student's page, or for many at once. Sessions give the time and say who needs what; large
					print and reading aloud are there by themselves.
				</p>
			</section>
		{/if}
	</div>
{/if}
