<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { choices } from '$lib/design/choices';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import { goto } from '$app/navigation';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import Approvals from './Approvals.svelte';
	import RuleField from './RuleField.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="mb-3 flex items-start gap-3">
	<Finding of="Groups and accommodations" class="flex-1">{shown.data?.finding ?? ''}</Finding>
	{#if shown.coordinator}<Button aria-expanded={shown.many} onclick={() => (shown.many = !shown.many)}
			>Set in bulk</Button
		>{/if}
	{#if staff.may('groups.write')}<Button
			kind="primary"
			aria-expanded={shown.making}
			onclick={() => (shown.making = !shown.making)}>New group</Button
		>{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.many}
	<div class="mb-3">
		<ImportPanel
			kind="support"
			accept=".csv,.tsv,.xlsx"
			hint="One row per student, or per student and subject. Columns: {shown.known.join(
				', '
			)}. An empty cell leaves things as they are; no ends an accommodation."
			paste={'student number\textended time\ttext-to-speech\tsource\tgroup\nBM-S0012\t1.25\tyes\tIEP\tReading lift'}
			onapplied={shown.load}
		/>
	</div>
{/if}
{#if shown.making}
	<form class="sheet mb-3 flex flex-col gap-3 p-4" onsubmit={shown.make}>
		<div class="flex flex-wrap items-end gap-4">
			<label class="field w-72">Name<input class="input" bind:value={shown.name} maxlength="80" required /></label>
			{#if shown.coordinator}
				<RadioGroup
					label="Members"
					bind:value={() => (shown.byRule ? 'rule' : 'names'), (way) => (shown.byRule = way === 'rule')}
					choices={choices(['rule', 'by a rule'], ['names', 'chosen one by one'])}
				/>
			{/if}
			<Button type="submit" kind="primary" disabled={shown.byRule && (!shown.tried || !!shown.tried.problem)}
				>Create</Button
			>
		</div>
		{#if shown.byRule}<RuleField
				bind:rule={shown.rule}
				bind:tried={shown.tried}
				allowed={shown.data?.allowed ?? ''}
			/>{:else}<p class="small">Add students on the group's page.</p>{/if}
	</form>
{/if}
{#if staff.may('support.read')}<Approvals onchange={shown.load} />{/if}
{#if shown.data}
	<div class="grid items-start gap-3 {shown.data.needs.length ? 'grid-cols-[minmax(0,1fr)_230px]' : ''}">
		<Panel label="Groups">
			<Table within="max-h-[calc(100vh-230px)]">
				<thead
					><tr
						><th>Group</th><th>Students</th><th>Who is in it</th><th>Staff</th>{#if shown.several}<th>School</th
							>{/if}</tr
					></thead
				>
				<tbody>
					{#each shown.data.groups as g (g.id)}
						<tr tabindex="-1" data-row onclick={() => goto(`/people/groups/${g.id}`)}>
							<td><a class="word" href="/people/groups/{g.id}">{g.name}</a></td>
							<td
								><span class="flex items-center gap-2"
									><span class="block h-3 bg-relief2" style:width="{(g.members / shown.most) * 110}px"
									></span>{g.members}</span
								></td
							>
							<td
								>{#if g.rule}<code>{g.rule}</code>{:else}chosen one by one{g.owner ? ` by ${g.owner}` : ''}{/if}</td
							>
							<td>{g.staff}</td>
							{#if shown.several}<td>{g.school}</td>{/if}
						</tr>
					{:else}
						<tr
							><td colspan="5" class="p-6 text-ink2"
								>Groups appear here: by a rule such as <code>grade 6 and extended time</code>, or chosen one by one.</td
							></tr
						>
					{/each}
				</tbody>
			</Table>
		</Panel>
		{#if shown.data.needs.length}
			<Panel label="Accommodations" class="p-3">
				<div class="small mb-2">Students</div>
				{#each shown.data.needs as n (n.name)}
					<div class="mb-1.5 flex items-center gap-2 text-[13px]">
						<span class="w-[96px]">{n.name}</span><span
							class="h-3 bg-relief2"
							style:width="{(Number(n.value) / shown.mostNeeded) * 70}px"
						></span><span>{n.value}</span>
					</div>
				{/each}
				<p class="small mt-3">
					Set accommodations on a student's page or in bulk. Sessions apply extended time and list who gets what; large
					print, text-to-speech and calculator are automatic.
				</p>
			</Panel>
		{/if}
	</div>
{/if}
