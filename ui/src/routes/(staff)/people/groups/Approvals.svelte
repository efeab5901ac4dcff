<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Student from '$lib/parts/Student.svelte';
	import { day } from '$lib/words/show';

	/** What case managers entered and nobody has approved, and what ends while tests are still given. */
	let { onchange }: { onchange: () => void } = $props();
	let found = $state<Schemas['AccommodationsPage'] | null>(null);
	let problem = $state('');
	let chosen = $state<string[]>([]);

	async function load() {
		try {
			found = await body(api.GET('/api/accommodations'));
			chosen = found.waiting.map((one) => one.id);
		} catch (error) {
			problem = said(error);
		}
	}
	$effect(() => void load());

	async function go(work: Promise<unknown>) {
		problem = '';
		try {
			await work;
			onchange();
		} catch (error) {
			problem = said(error);
		}
		await load();
	}
</script>

{#snippet rows(lines: Schemas['AccommodationLine'][], approve: boolean)}
	<Table within="max-h-[320px]">
		<thead
			><tr
				>{#if approve}<th class="w-8"
						><Checkbox
							label="Select all"
							bind:checked={
								() => chosen.length === lines.length, (on) => (chosen = on ? lines.map((one) => one.id) : [])
							}
						/></th
					>{/if}<th>Student</th><th>Grade</th><th>Accommodation</th><th>Tests</th><th>Source</th><th
					>{approve ? 'Entered by' : 'Ends'}</th
				>{#if approve}<th></th>{/if}</tr
			></thead
		>
		<tbody>
			{#each lines as one, at (one.id)}
				<tr>
					{#if approve}<td
							><Checkbox
								label="Select {one.says}, row {at + 1}"
								bind:checked={
									() => chosen.includes(one.id),
									(on) => (chosen = on ? [...chosen, one.id] : chosen.filter((id) => id !== one.id))
								}
							/></td
						>{/if}
					<td><Student person={one.person} name={one.name} alias={at} /></td>
					<td>{one.grade}</td>
					<td class="font-semibold"
						>{one.says}{#if one.replaces}<span class="small block leading-tight font-normal"
								>instead of {one.replaces}</span
							>{/if}</td
					>
					<td>{one.tests}</td>
					<td>{one.source_says}</td>
					<td>{approve ? `${one.entered_by}, ${day(one.entered_at)}` : one.until ? day(one.until) : ''}</td>
					{#if approve}<td class="n"
							><Ask
								quiet
								label="Decline"
								question="{one.says} will not be given. Say why; the reason is kept in the log."
								reason="Reason"
								yes="Decline"
								onyes={(why) =>
									go(
										api.POST('/api/accommodations/{accommodation_id}/decline', {
											params: { path: { accommodation_id: one.id } },
											body: { why }
										})
									)}
							/></td
						>{/if}
				</tr>
			{/each}
		</tbody>
	</Table>
{/snippet}

<Notice text={problem} onclose={() => (problem = '')} />
{#if found?.waiting.length && found.may_approve}
	<Panel label="Accommodations to approve" class="mb-3">
		<div class="flex items-center gap-3 px-4 py-2.5">
			<h2>{found.waiting_says}</h2>
			<span class="small">Not in effect until approved.</span>
			<span class="ml-auto"
				><Button
					kind="primary"
					disabled={!chosen.length}
					onclick={() => go(api.POST('/api/accommodations/approve', { body: { ids: chosen } }))}
					>Approve {chosen.length}</Button
				></span
			>
		</div>
		{@render rows(found.waiting, true)}
	</Panel>
{/if}
{#if found?.lapsing.length}
	<Panel label="Accommodations that end during the window" class="mb-3">
		<h2 class="px-4 py-2.5">{found.lapsing_says}</h2>
		{@render rows(found.lapsing, false)}
	</Panel>
{/if}
