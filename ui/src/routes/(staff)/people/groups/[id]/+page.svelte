<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import RuleField from '../RuleField.svelte';

	/** One group: its students with what they need, its rule, who works with it. */
	let data = $state<Schemas['GroupPage'] | null>(null);
	let problem = $state('');
	let editing = $state(false);
	let name = $state('');
	let rule = $state('');
	let tried = $state<Schemas['TriedRule'] | null>(null);
	const id = $derived(page.params.id ?? '');
	const path = $derived({ path: { group_id: id } });
	const may = $derived(data?.group.may_change ?? false);

	onMount(load);
	async function load() {
		try {
			data = await body(api.GET('/api/groups/{group_id}', { params: path }));
			name = data.group.name;
			rule = data.group.rule ?? '';
		} catch (error) {
			problem = said(error);
		}
	}
	async function go(work: Promise<unknown>) {
		problem = '';
		try {
			await work;
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
	const members = (add: string[], drop: string[]) =>
		go(api.POST('/api/groups/{group_id}/members', { params: path, body: { add, drop } }));
	const works = (person_id: string, yes: boolean) =>
		go(api.POST('/api/groups/{group_id}/staff', { params: path, body: { person_id, works: yes } }));
	async function save(event: SubmitEvent) {
		event.preventDefault();
		await go(
			api.PUT('/api/groups/{group_id}', { params: path, body: { name, rule: data?.group.rule === null ? null : rule } })
		);
		editing = !!problem;
	}
	async function end() {
		try {
			await api.DELETE('/api/groups/{group_id}', { params: path });
			await goto('/people/groups');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<svelte:head><title>{data?.group.name ?? 'Group'} · Bildung</title></svelte:head>

<Notice text={problem} onclose={() => (problem = '')} />
{#if data}
	<div class="small mb-1">
		<a class="word" href="/people/groups">Groups and needs</a>{data.group.school ? ` · ${data.group.school}` : ''}
	</div>
	<h1 class="mb-3">{data.finding}</h1>
	{#if data.problem}<p class="notch mb-3">{data.problem}</p>{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_330px] items-start gap-3">
		<section class="sheet" aria-label="Students">
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-240px)]">
				<table>
					<thead><tr><th>Student</th><th>Grade</th><th>Needs</th><th></th></tr></thead>
					<tbody>
						{#each data.members as m, at (m.id)}
							<tr tabindex="-1" data-row onclick={() => goto(`/people/${m.id}`)}>
								<td><a class="word" href="/people/{m.id}">{staff.name(m.name, at)}</a></td>
								<td>{m.grade}</td>
								<td>{staff.veiled ? '' : m.needs}</td>
								<td class="n"
									>{#if may && data.group.rule === null}<button
											class="btn quiet"
											onclick={(e) => (e.stopPropagation(), void members([], [m.id]))}>Take out</button
										>{/if}</td
								>
							</tr>
						{:else}
							<tr
								><td colspan="4" class="text-ink2"
									>{data.group.rule ? 'Nobody fits the rule now.' : 'Nobody yet. Find students at the right.'}</td
								></tr
							>
						{/each}
					</tbody>
				</table>
			</div>
		</section>
		<div class="flex flex-col gap-3">
			<section class="sheet p-4 text-[14px]" aria-label="The group">
				{#if editing}
					<form class="flex flex-col gap-2" onsubmit={save}>
						<label class="field">Name<input class="input" bind:value={name} maxlength="80" required /></label>
						{#if data.group.rule !== null}<RuleField bind:rule bind:tried allowed="" />{/if}
						<div class="flex gap-2">
							<button class="btn primary" disabled={data.group.rule !== null && !!tried?.problem}>Keep</button><button
								type="button"
								class="btn"
								onclick={() => (editing = false)}>Leave it</button
							>
						</div>
					</form>
				{:else}
					{#if data.group.rule}<div class="small">Rule; members follow it by themselves</div>
						<code class="mb-3 block">{data.group.rule}</code>{:else}<div class="mb-3">
							Named one by one{data.group.owner ? ` by ${data.group.owner}` : ''}.
						</div>{/if}
					{#if may}
						<div class="flex flex-wrap gap-2">
							<button class="btn" onclick={() => (editing = true)}>Change</button>
							<Ask
								label="End the group"
								question="The group {data.group
									.name} goes, with who works with it. Its students and their results stay."
								yes="End it"
								onyes={end}
							/>
						</div>
					{/if}
				{/if}
			</section>
			{#if may && data.group.rule === null}
				<section class="sheet p-4" aria-label="Add a student">
					<PersonPick
						kind="student"
						label="Add a student"
						but={data.members.map((m) => m.id)}
						onpick={(p) => members([p.id], [])}
					/>
				</section>
			{/if}
			<section class="sheet p-4 text-[14px]" aria-label="Works with this group">
				<div class="small mb-1">Works with this group, and so sees its students</div>
				{#each data.staff as s (s.id)}
					<div class="flex items-center">
						<span class="flex-1">{s.name}</span>{#if may && !data.group.owner}<button
								class="btn quiet"
								onclick={() => works(s.id, false)}>Take back</button
							>{/if}
					</div>
				{:else}<div class="text-ink2">nobody beside their teachers</div>{/each}
				{#if may && !data.group.owner}<div class="mt-2">
						<PersonPick
							kind="staff"
							label="Add a colleague"
							but={data.staff.map((s) => s.id)}
							onpick={(p) => works(p.id, true)}
						/>
					</div>{/if}
			</section>
		</div>
	</div>
{/if}
