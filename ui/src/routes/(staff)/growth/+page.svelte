<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { whole } from '$lib/words/show';
	import MeasureForm from './MeasureForm.svelte';
	import NormsForm from './NormsForm.svelte';
	import ScoresIn from './ScoresIn.svelte';
	import type { PageProps } from './$types';

	/** Measures: scores from inside and outside by which growth is judged. */
	let { data }: PageProps = $props();
	type Line = Schemas['MeasureLine'];
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	let adding = $state(false);
	let open = $state<{ measure: string; what: 'scores' | 'norms' } | null>(null);
	const fresh = () => void invalidate('bildung:measures');
	const subjects = $derived([...new Set((page?.measures ?? []).map((m) => m.subject))]);
	/** A measure stands before its skills. */
	const ordered = (subject: string) => {
		const mine = (page?.measures ?? []).filter((m) => m.subject === subject);
		return mine.filter((m) => !m.part_of).flatMap((m) => [m, ...mine.filter((s) => s.part_of === m.id)]);
	};

	const pair = (line: Line) => {
		const [start, end] = line.latest;
		return start && end ? `/growth/${line.id}?start=${start}&end=${end}` : '';
	};
	const last = (line: Line) => line.windows.at(-1)?.id ?? '';

	const turn = (measure: string, what: 'scores' | 'norms') =>
		(open = open?.measure === measure && open.what === what ? null : { measure, what });

	async function turnRound(line: Line) {
		try {
			await body(
				api.PUT('/api/growth/measures/{measure}/direction', {
					params: { path: { measure: line.id } },
					body: { falling: !line.falling }
				})
			);
			problem = '';
			fresh();
		} catch (error) {
			problem = said(error);
		}
	}

	const entries = (line: Line) => [
		...(line.own
			? []
			: [
					{ label: 'Import or type scores', does: () => turn(line.id, 'scores') },
					{ label: 'Add norms', does: () => turn(line.id, 'norms') }
				]),
		{ label: 'Cut scores', href: `/growth/${line.id}/cuts` },
		{ label: 'Scores as CSV', href: `/api/growth/measures/${line.id}/scores.csv`, disabled: !line.windows.length },
		{ label: 'Scores as XLSX', href: `/api/growth/measures/${line.id}/scores.xlsx`, disabled: !line.windows.length }
	];
</script>

<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Growth" class="max-w-[860px] flex-1">{page.finding}</Finding>
		<Button href="/growth/reflections">Reflections</Button>
		{#if page.keeps}<Button aria-expanded={adding} onclick={() => (adding = !adding)}>Add a measure</Button>{/if}
	</div>
	{#if adding}<MeasureForm
			measures={page.measures}
			onadded={() => {
				adding = false;
				fresh();
			}}
		/>{/if}
	{#each page.measures.filter((m) => m.doubt) as line (line.id)}
		<p class="mb-2 flex max-w-[980px] flex-wrap items-center gap-3 border-l-4 border-vermilion pl-3 text-[14px]">
			<span class="flex-1"><b class="font-semibold">{line.name}.</b> {line.doubt}</span>
			{#if page.keeps}<Button onclick={() => turnRound(line)}
					>{line.falling ? 'More is better' : 'Less is better'}</Button
				>{/if}
		</p>
	{/each}
	{#if page.measures.length}
		<Table within="sheet">
			<thead
				><tr
					><th>Measure</th><th>Scale</th><th class="n">Students</th><th>Windows with scores</th><th>Levels</th><th
						>Norms</th
					><th><span class="sr-only">Actions</span></th></tr
				></thead
			>
			<tbody>
				{#each subjects as subject (subject)}
					<tr
						><th colspan="7" scope="rowgroup" class="pt-3 text-left text-[13px] font-semibold text-ink2">{subject}</th
						></tr
					>
					{#each ordered(subject) as line (line.id)}
						<tr>
							<td class="font-semibold {line.part_of ? 'pl-6' : ''}"
								>{#if pair(line)}<a class="word" href={pair(line)} data-row>{line.name}</a>{:else if last(line)}<a
										class="word"
										href="/growth/{line.id}/levels?at={last(line)}"
										data-row>{line.name}</a
									>{:else}{line.name}{/if}{#if line.part_of}<span class="small block font-normal">a skill</span
									>{/if}</td
							>
							<td class="whitespace-nowrap"
								>{#if line.levels.length}{line.levels[0]} to {line.levels.at(-1)}<span class="small block leading-tight"
										>{line.levels.length} ordered levels</span
									>{:else if line.own}percent of points<span class="small block leading-tight">given here</span
									>{:else}{line.low} to {line.high}{#if line.falling}<span class="small block leading-tight"
											>less is better</span
										>{/if}{/if}</td
							>
							<td class="n">{whole(line.students)}</td>
							<td
								>{#each line.windows.slice(-5) as w (w.id)}<span class="mr-3 inline-block whitespace-nowrap"
										><a class="word" href="/growth/{line.id}/levels?at={w.id}">{w.name}</a>
										<span class="small">{whole(w.scores)}</span></span
									>{:else}<span class="small">none yet</span>{/each}</td
							>
							<td
								>{#if line.cuts.length}<a class="word" href="/growth/{line.id}/cuts">{line.cuts.length} levels</a
									>{:else}<span class="small">no cut scores</span>{/if}</td
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
								{#if pair(line)}<Button href={pair(line)}>Compare windows</Button>{/if}
								{#if page.keeps}<Menu label="More about {line.name}" quiet entries={entries(line)}>More</Menu>{/if}
							</td>
						</tr>
					{/each}
				{/each}
			</tbody>
		</Table>
		{#each page.measures as line (line.id)}
			{#if open?.measure === line.id}
				<div class="mt-3">
					{#if open.what === 'scores'}<ScoresIn measure={line} onapplied={fresh} />
					{:else}
						<NormsForm
							measure={line}
							onkept={() => {
								open = null;
								fresh();
							}}
						/>
					{/if}
				</div>
			{/if}
		{/each}
	{/if}
{/if}
