<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { page } from '$app/state';
	import { api, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, OUTCOMES, STATE_WORDS } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** What was noted in the rooms, and what it means for the attempts. */
	let { data }: PageProps = $props();
	type Line = Schemas['IrregularityLine'];
	type Outcome = Schemas['IrregularityDecision']['outcome'];
	let problem = $derived(data.problem);
	let deciding = $state<Line | null>(null);
	let outcome = $state('counts');
	let why = $state('');
	let busy = $state(false);
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const CHOICES = [
		{ value: 'counts', label: 'The attempt counts as it is' },
		{ value: 'retake', label: 'Invalidate; the student takes the test again' },
		{ value: 'void', label: 'Invalidate; it counts in no result' },
		{ value: 'exempt', label: 'Exempt; no makeup is due' }
	];

	function open(line: Line) {
		[deciding, outcome, why] = [line, 'counts', ''];
	}

	async function settle(line: Line, as: Outcome, reason: string) {
		busy = true;
		try {
			await api.POST('/api/irregularities/{event}', {
				params: { path: { event: line.id } },
				body: { outcome: as, why: reason }
			});
			deciding = null;
			await invalidate('bildung:irregularities');
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<div class="small mb-1">
	<a class="word" href="/sessions?window={page.url.searchParams.get('window') ?? ''}">Sessions</a>
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if data.page}
	<Finding of="Irregularities">{data.page.finding}</Finding>
	{#if data.page.lines.length}
		<Table within="sheet mt-3">
			<thead
				><tr
					><th>When</th><th>Who</th><th>What happened</th><th>Attempt</th><th>Decision</th><th
						><span class="sr-only">Actions</span></th
					></tr
				></thead
			>
			<tbody>
				{#each data.page.lines as line, at (line.id)}
					<tr>
						<td class="whitespace-nowrap">{dateTime(line.at, zone)}</td>
						<td
							><b class="font-semibold">{line.who ? staff.name(line.who, at) : 'The whole session'}</b><span
								class="small block leading-tight"
								><a class="word" href="/sessions/{line.session}">{line.klass}</a>, {line.form}</span
							></td
						>
						<td>{line.text}<span class="small block leading-tight">noted by {line.by}</span></td>
						<td
							>{#if line.sitting}{STATE_WORDS[line.state]}<span class="small block leading-tight"
									>{line.answered} of {line.items} answered</span
								>{/if}</td
						>
						<td>{line.outcome ? OUTCOMES[line.outcome] : 'open'}</td>
						<td class="n">
							{#if line.outcome}<Button kind="quiet" disabled={busy} onclick={() => settle(line, '', '')}>Undo</Button>
							{:else}<Button onclick={() => open(line)}>Decide</Button>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</Table>
	{/if}
{/if}
<Dialog
	bind:open={() => deciding !== null, (is) => is || (deciding = null)}
	title={deciding?.who ? `What does it mean for ${staff.veiled ? 'this student' : deciding.who}?` : 'Settle it'}
	says={deciding?.text ?? ''}
>
	{#if deciding}
		{@const line = deciding}
		<form
			onsubmit={(event) => {
				event.preventDefault();
				void settle(line, outcome as Outcome, why);
			}}
		>
			{#if line.sitting}<RadioGroup class="flex-col" label="Decision" choices={CHOICES} bind:value={outcome} />{:else}<p
					class="text-[14px]"
				>
					This is about the whole session; the attempts count. To decide about a student, note it for them.
				</p>{/if}
			{#if outcome !== 'counts'}<label class="field mt-3"
					>Reason (kept in the log)<textarea class="input" rows="2" maxlength="300" required bind:value={why}
					></textarea></label
				>{/if}
			<div class="mt-4 flex justify-end gap-2">
				<Button onclick={() => (deciding = null)}>Cancel</Button>
				<Button type="submit" kind="primary" disabled={busy}>Save decision</Button>
			</div>
		</form>
	{/if}
</Dialog>
