<script lang="ts">
	import { invalidate } from '$app/navigation';
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { moment, shortDay, whole } from '$lib/words/show';
	import AlertPersons from './AlertPersons.svelte';
	import PlanDialog from './PlanDialog.svelte';
	import type { PageProps } from './$types';

	/** What waits for a person's score, and what cannot be said until it is scored. */
	let { data }: PageProps = $props();
	type Line = Schemas['WaitingItem'];
	let problem = $derived(data.problem);
	let planning = $state<Line | null>(null);
	let naming = $state(false);
	const page = $derived(data.page);

	/** What is settled, what waits for a second scorer or adjudication, what for a first score; in the strip and in words. */
	function strip(line: Line) {
		return [
			{ n: line.scored, tint: 'var(--color-relief4)', words: 'scored' },
			{ n: line.adjudication, tint: 'var(--color-relief1)', words: 'for adjudication' },
			{ n: line.second, tint: 'var(--color-relief3)', words: 'for a second scorer' },
			{ n: line.waiting, tint: 'var(--color-white)', words: 'unscored' }
		].filter((part) => part.n);
	}

	const desk = (line: Line) => `/scoring/${line.place}?window=${line.window_id}`;
</script>

<Notice text={problem} onclose={() => (problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Scoring" class="max-w-[860px] flex-1">{page.finding}</Finding>
		{#if staff.may('sessions.plan')}<Button kind="quiet" href="/scoring/release">Release</Button>{/if}
		{#if page.plans}<Button kind="quiet" href="/scoring/corrections">Corrections</Button><Button
				kind="quiet"
				onclick={() => (naming = true)}>Safety alerts …</Button
			>{/if}
		{#if page.first}<Button kind="primary" href={page.first}>Score responses</Button>{/if}
	</div>
	{#if page.items.length}
		<Table within="sheet">
			<thead
				><tr
					><th>Item</th><th>Test</th><th>Responses</th><th>Waiting since</th><th class="n">No total yet</th><th
						>Scorers</th
					><th><span class="sr-only">Actions</span></th></tr
				></thead
			>
			<tbody>
				{#each page.items as line (`${line.place} ${line.window_id}`)}
					<tr>
						<td class="max-w-[260px]"
							><a class="word font-semibold" href={desk(line)} data-row>{line.number}. {line.item}</a><span
								class="small line-clamp-1">{line.text}</span
							></td
						>
						<td
							>{line.form}<span class="small block leading-tight"
								>{line.window}, {line.sessions === 1 ? line.classes[0] : `${line.sessions} sessions`}</span
							></td
						>
						<td class="min-w-[190px]">
							<span class="flex h-[14px] w-full max-w-[220px] border border-ink2" aria-hidden="true"
								>{#each strip(line) as part (part.words)}<i
										style:width="{(100 * part.n) / line.responses}%"
										style:background={part.tint}
									></i>{/each}</span
							>
							<span class="small block leading-tight"
								>{strip(line)
									.map((part) => `${whole(part.n)} ${part.words}`)
									.join(', ')}</span
							>
							{#if page.plans && line.earlier}<a
									class="word small block leading-tight"
									href="/scoring/{line.place}/earlier?window={line.window_id}"
									>{whole(line.earlier)} by an earlier rubric: decide</a
								>{/if}
						</td>
						<td class="whitespace-nowrap">{line.since ? moment(line.since) : ''}</td>
						<td class="n">{line.totals ? whole(line.totals) : ''}</td>
						<td>
							{#each line.scorers as scorer (scorer.id)}<span class="block leading-tight"
									>{scorer.name}<span class="small {scorer.late ? 'font-bold text-vermilion' : ''}"
										>, {whole(scorer.scored)}{scorer.due
											? `, ${scorer.late ? 'was due' : 'due'} ${shortDay(scorer.due)}`
											: ''}</span
									></span
								>{:else}<span class="small">teachers of these classes</span>{/each}
						</td>
						<td class="n whitespace-nowrap">
							{#if page.plans}
								{#if line.scorers.length > 1}<Button
										kind="quiet"
										href="/scoring/{line.place}/agreement?window={line.window_id}">Agreement</Button
									>{/if}
								<Button kind="quiet" onclick={() => (planning = line)}>Assign</Button>
							{/if}
							{#if line.responses > line.scored}<Button
									kind="quiet"
									href="/scoring/{line.place}/groups?window={line.window_id}">Together</Button
								><Button href={desk(line)}>Score</Button>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</Table>
		<p class="small mt-2">
			An attempt that waits for a score is in no total, average or release until it is scored. {staff.veiled
				? ''
				: 'Names are hidden while you score.'}
		</p>
	{/if}
{/if}
{#if planning}<PlanDialog
		line={planning}
		onleave={() => (planning = null)}
		onkept={() => {
			planning = null;
			void invalidate('bildung:scoring');
		}}
	/>{/if}
{#if naming}<AlertPersons onleave={() => (naming = false)} />{/if}
