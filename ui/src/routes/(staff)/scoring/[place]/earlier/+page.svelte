<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import { moment, whole } from '$lib/words/show';
	import ItemHead from '../ItemHead.svelte';
	import type { PageProps } from './$types';

	/** Scores that were given before the rubric changed: what it asked then and asks now, and what is to be done with them. */
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	let problem = $derived(data.problem);
	const open = (sitting: string) => `/scoring/${params.place}?window=${data.window}&sitting=${sitting}`;
	const older = $derived((page?.rubrics ?? []).filter((rubric) => rubric.in_force || rubric.scores));

	async function keep() {
		if (!page) return;
		try {
			await body(
				api.PUT('/api/scoring/items/{place}/earlier', {
					params: { path: { place: params.place } },
					body: { window: data.window, newest: page.newest }
				})
			);
			problem = '';
			await invalidate('bildung:earlier');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<ItemHead {page} of="earlier rubric" bind:problem>
	{#snippet actions()}
		{#if page?.open}
			<Ask
				label="Let them stand …"
				question="They count as they are, also beside scores by the new rubric, until the rubric changes again."
				yes="Let {whole(page.open)} {page.open === 1 ? 'score' : 'scores'} stand"
				onyes={() => keep()}
			/>
			<Button
				kind="primary"
				href="/scoring/correct/{params.place}?window={data.window}&kind=rescore&scoring={page.newest - 1}"
				>Score these again …</Button
			>
		{/if}
	{/snippet}
</ItemHead>
{#if page}
	{#if older.some((rubric) => rubric.criteria.length)}
		<div class="mb-3 grid gap-3" style:grid-template-columns="repeat({Math.min(3, older.length)}, minmax(0, 1fr))">
			{#each older.slice(-3) as rubric (rubric.number)}
				<Panel label="Rubric {rubric.number}" class="px-4 py-3 {rubric.in_force ? 'border-l-4 border-l-petrol' : ''}">
					<h2 class="text-[15px]">
						Rubric {rubric.number}<span class="small ml-2 font-normal"
							>since {moment(rubric.since)}{rubric.in_force ? ', holds now' : ''} · {whole(rubric.scores)}
							{rubric.scores === 1 ? 'score' : 'scores'}</span
						>
					</h2>
					{#each rubric.criteria as criterion, n (n)}
						<p class="mt-2 text-[14px] font-semibold">{criterion.title || 'Points'}</p>
						<ul class="text-[14px] leading-snug">
							{#each criterion.levels as level, at (at)}<li>{level}</li>{/each}
						</ul>
					{/each}
				</Panel>
			{/each}
		</div>
	{/if}
	{#if page.scores.length}
		<Table within="sheet">
			<thead
				><tr
					><th>Response</th><th class="n">Points</th><th>Rubric</th><th>Scorer</th><th>When</th><th
						>By the new rubric</th
					></tr
				></thead
			>
			<tbody>
				{#each page.scores as score (`${score.sitting} ${score.by}`)}
					<tr>
						<td><a class="word" href={open(score.sitting)} data-row>Response {score.number}</a></td>
						<td class="n">{score.code ? score.code.replace('_', ' ') : `${score.points} of ${page.maximum}`}</td>
						<td>{score.rubric}</td>
						<td>{score.by}</td>
						<td class="whitespace-nowrap">{moment(score.at)}</td>
						<td>{score.now ? 'these points still exist' : 'no level is worth this any more'}</td>
					</tr>
				{/each}
			</tbody>
		</Table>
	{/if}
{/if}
