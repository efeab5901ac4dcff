<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
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

<svelte:head><title>{shown.data?.group.name ?? 'Group'} · Bildung</title></svelte:head>

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data}
	<div class="small mb-1">
		<a class="word" href="/people/groups">Groups and accommodations</a>{shown.data.group.school
			? ` · ${shown.data.group.school}`
			: ''}
	</div>
	<h1 class="mb-3">{shown.data.finding}</h1>
	{#if shown.data.problem}<p class="notch mb-3">{shown.data.problem}</p>{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_330px] items-start gap-3">
		<section class="sheet" aria-label="Students">
			<div {@attach scrollable} class="frozen max-h-[calc(100vh-240px)]">
				<table>
					<thead><tr><th>Student</th><th>Grade</th><th>Accommodations</th><th></th></tr></thead>
					<tbody>
						{#each shown.data.members as m, at (m.id)}
							<tr tabindex="-1" data-row onclick={() => goto(`/people/${m.id}`)}>
								<td><a class="word" href="/people/{m.id}">{staff.name(m.name, at)}</a></td>
								<td>{m.grade}</td>
								<td>{staff.veiled ? '' : m.needs}</td>
								<td class="n"
									>{#if shown.may && shown.data.group.rule === null}<button
											class="btn quiet"
											onclick={(e) => (e.stopPropagation(), void shown.members([], [m.id]))}>Export</button
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
				</table>
			</div>
		</section>
		<div class="flex flex-col gap-3">
			<section class="sheet p-4 text-[14px]" aria-label="The group">
				{#if shown.editing}
					<form class="flex flex-col gap-2" onsubmit={shown.save}>
						<label class="field">Name<input class="input" bind:value={shown.name} maxlength="80" required /></label>
						{#if shown.data.group.rule !== null}<RuleField
								bind:rule={shown.rule}
								bind:tried={shown.tried}
								allowed=""
							/>{/if}
						<div class="flex gap-2">
							<button class="btn primary" disabled={shown.data.group.rule !== null && !!shown.tried?.problem}
								>Save</button
							><button type="button" class="btn" onclick={() => (shown.editing = false)}>Cancel</button>
						</div>
					</form>
				{:else}
					{#if shown.data.group.rule}<div class="small">Rule (membership updates automatically)</div>
						<code class="mb-3 block">{shown.data.group.rule}</code>{:else}<div class="mb-3">
							Chosen one by one{shown.data.group.owner ? ` by ${shown.data.group.owner}` : ''}.
						</div>{/if}
					{#if shown.may}
						<div class="flex flex-wrap gap-2">
							<button class="btn" onclick={() => (shown.editing = true)}>Edit</button>
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
			</section>
			{#if shown.may && shown.data.group.rule === null}
				<section class="sheet p-4" aria-label="Add a student">
					<PersonPick
						kind="student"
						label="Add a student"
						but={shown.data.members.map((m) => m.id)}
						onpick={(p) => shown.members([p.id], [])}
					/>
				</section>
			{/if}
			<section class="sheet p-4 text-[14px]" aria-label="Works with this group">
				<div class="small mb-1">Staff who work with this group and can see its students</div>
				{#each shown.data.staff as s (s.id)}
					<div class="flex items-center">
						<span class="flex-1">{s.name}</span>{#if shown.may && !shown.data.group.owner}<button
								class="btn quiet"
								onclick={() => shown.works(s.id, false)}>Remove</button
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
			</section>
		</div>
	</div>
{/if}
