<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import RuleField from '../RuleField.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data}
	<div class="small mb-1">
		<a class="word" href="/people/groups">Groups and accommodations</a>{shown.data.group.school
			? ` · ${shown.data.group.school}`
			: ''}
	</div>
	<Finding of="Group" title={shown.data?.group.name} class="mb-3">{shown.data.finding}</Finding>
	{#if shown.data.problem}<p class="notch mb-3">{shown.data.problem}</p>{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_330px] items-start gap-3">
		<Panel label="Students">
			<Table within="max-h-[calc(100vh-240px)]">
				<thead><tr><th>Student</th><th>Grade</th><th>Accommodations</th><th></th></tr></thead>
				<tbody>
					{#each shown.data.members as m, at (m.id)}
						<tr tabindex="-1" data-row onclick={() => goto(`/people/${m.id}`)}>
							<td><a class="word" href="/people/{m.id}">{staff.name(m.name, at)}</a></td>
							<td>{m.grade}</td>
							<td>{staff.veiled ? '' : m.needs}</td>
							<td class="n"
								>{#if shown.may && shown.data.group.rule === null}<Button
										kind="quiet"
										onclick={(e) => (e.stopPropagation(), void shown.members([], [m.id]))}>Remove</Button
									>{/if}</td
							>
						</tr>
					{:else}
						<tr
							><td colspan="4" class="text-ink2"
								>{shown.data.group.rule ? 'Nobody fits the rule now.' : 'Nobody yet. Find students at the right.'}</td
							></tr
						>
					{/each}
				</tbody>
			</Table>
		</Panel>
		<div class="flex flex-col gap-3">
			<Panel label="The group" class="p-4 text-[14px]">
				{#if shown.editing}
					<form class="flex flex-col gap-2" onsubmit={shown.save}>
						<label class="field">Name<input class="input" bind:value={shown.name} maxlength="80" required /></label>
						{#if shown.data.group.rule !== null}<RuleField
								bind:rule={shown.rule}
								bind:tried={shown.tried}
								allowed=""
							/>{/if}
						<div class="flex gap-2">
							<Button type="submit" kind="primary" disabled={shown.data.group.rule !== null && !!shown.tried?.problem}
								>Save</Button
							><Button onclick={() => (shown.editing = false)}>Cancel</Button>
						</div>
					</form>
				{:else}
					{#if shown.data.group.rule}<div class="small">Rule (membership updates automatically)</div>
						<code class="mb-3 block">{shown.data.group.rule}</code>{:else}<div class="mb-3">
							Chosen one by one{shown.data.group.owner ? ` by ${shown.data.group.owner}` : ''}.
						</div>{/if}
					{#if shown.may}
						<div class="flex flex-wrap gap-2">
							<Button onclick={() => (shown.editing = true)}>Edit</Button>
							<Ask
								label="Delete group"
								question="The group {shown.data.group
									.name} goes, with who works with it. Its students and their results stay."
								yes="Delete"
								onyes={shown.end}
							/>
						</div>
					{/if}
				{/if}
			</Panel>
			{#if shown.may && shown.data.group.rule === null}
				<Panel label="Add a student" class="p-4">
					<PersonPick
						kind="student"
						label="Add a student"
						but={shown.data.members.map((m) => m.id)}
						onpick={(p) => shown.members([p.id], [])}
					/>
				</Panel>
			{/if}
			<Panel label="Works with this group" class="p-4 text-[14px]">
				<div class="small mb-1">Staff who work with this group and can see its students</div>
				{#each shown.data.staff as s (s.id)}
					<div class="flex items-center">
						<span class="flex-1">{s.name}</span>{#if shown.may && !shown.data.group.owner}<Button
								kind="quiet"
								onclick={() => shown.works(s.id, false)}>Remove</Button
							>{/if}
					</div>
				{:else}<div class="text-ink2">no one besides their teachers</div>{/each}
				{#if shown.may && !shown.data.group.owner}<div class="mt-2">
						<PersonPick
							kind="staff"
							label="Add staff"
							but={shown.data.staff.map((s) => s.id)}
							onpick={(p) => shown.works(p.id, true)}
						/>
					</div>{/if}
			</Panel>
		</div>
	</div>
{/if}
