<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { whole } from '$lib/words/show';
	import NormsForm from './NormsForm.svelte';
	import type { PageProps } from './$types';

	/** Measures: scores from inside and outside by which growth is judged. */
	let { data }: PageProps = $props();
	type Line = Schemas['MeasureLine'];
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	let adding = $state(false);
	let open = $state<{ measure: string; what: 'scores' | 'norms' } | null>(null);
	let wish = $state({ name: '', subject: '', low: '', high: '', decimals: '0' });

	const pair = (line: Line) => {
		const [start, end] = line.latest;
		return start && end ? `/growth/${line.id}?start=${start}&end=${end}` : '';
	};

	async function add(event: Event) {
		event.preventDefault();
		try {
			await body(
				api.POST('/api/growth/measures', {
					body: {
						name: wish.name,
						subject: wish.subject,
						low: Number(wish.low),
						high: Number(wish.high),
						decimals: Number(wish.decimals)
					}
				})
			);
			[adding, problem] = [false, ''];
			await invalidate('bildung:measures');
		} catch (error) {
			problem = said(error);
		}
	}

	const turn = (measure: string, what: 'scores' | 'norms') =>
		(open = open?.measure === measure && open.what === what ? null : { measure, what });
</script>

<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Growth" class="max-w-[860px] flex-1">{page.finding}</Finding>
		{#if page.keeps}<Button aria-expanded={adding} onclick={() => (adding = !adding)}>Add a measure</Button>{/if}
	</div>
	{#if adding}
		<Panel label="Add a measure" class="mb-3 px-5 py-4">
			<form class="flex flex-wrap items-end gap-3" onsubmit={add}>
				<label class="field">Name<input class="input" required maxlength="80" bind:value={wish.name} /></label>
				<label class="field">Subject<input class="input" required maxlength="40" bind:value={wish.subject} /></label>
				<label class="field"
					>Lowest score<input class="input w-[110px]" required inputmode="decimal" bind:value={wish.low} /></label
				>
				<label class="field"
					>Highest score<input class="input w-[110px]" required inputmode="decimal" bind:value={wish.high} /></label
				>
				<label class="field"
					>Decimals<input class="input w-[80px]" inputmode="numeric" bind:value={wish.decimals} /></label
				>
				<Button type="submit" kind="primary">Add</Button>
			</form>
		</Panel>
	{/if}
	{#if page.measures.length}
		<Table within="sheet">
			<thead
				><tr
					><th>Measure</th><th>Subject</th><th>Scale</th><th class="n">Students</th><th>Windows with scores</th><th
						>Norms</th
					><th><span class="sr-only">Actions</span></th></tr
				></thead
			>
			<tbody>
				{#each page.measures as line (line.id)}
					<tr>
						<td class="font-semibold"
							>{#if pair(line)}<a class="word" href={pair(line)} data-row>{line.name}</a>{:else}{line.name}{/if}</td
						>
						<td>{line.subject}</td>
						<td class="whitespace-nowrap">{line.low} to {line.high}</td>
						<td class="n">{whole(line.students)}</td>
						<td
							>{#each line.windows as w (w.id)}<span class="mr-3 inline-block whitespace-nowrap"
									>{w.name} <span class="small">{whole(w.scores)}</span></span
								>{:else}<span class="small">none yet</span>{/each}</td
						>
						<td
							>{#if line.norms[0]}{line.norms[0].name}, version {line.norms[0].version}<span
									class="small block leading-tight"
									>{line.norms[0].kind}, weeks {line.norms[0].weeks}{line.norms[0].expects
										? ''
										: ', without correlations'}</span
								>{:else}<span class="small">none: students are held against each other</span>{/if}</td
						>
						<td class="n whitespace-nowrap">
							{#if page.keeps}
								<Button kind="quiet" onclick={() => turn(line.id, 'scores')}>Import scores</Button>
								<Button kind="quiet" onclick={() => turn(line.id, 'norms')}>Add norms</Button>
							{/if}
							{#if pair(line)}<Button href={pair(line)}>Compare windows</Button>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</Table>
		{#each page.measures as line (line.id)}
			{#if open?.measure === line.id}
				<div class="mt-3">
					{#if open.what === 'scores'}
						<ImportPanel
							kind="scores"
							of={line.id}
							accept=".csv,.tsv,.txt,.xlsx"
							hint="CSV or XLSX with the columns student (the student's number), grade, window, week of instruction, score, and se (standard error) if you have it. Scores that are here already change nothing."
							paste={'student,grade,window,week,score,se\n4711,7,Fall,2,221,4'}
							onapplied={() => void invalidate('bildung:measures')}
						/>
					{:else}
						<NormsForm
							measure={line}
							onkept={() => {
								open = null;
								void invalidate('bildung:measures');
							}}
						/>
					{/if}
				</div>
			{/if}
		{/each}
	{/if}
{/if}
