<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, decimal, percent } from '$lib/words/show';
	import Course from './Course.svelte';
	import type { PageProps } from './$types';

	/** One student on one measure: every score with its error, where it stands, and what may be said of the way. */
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	const name = $derived(page ? staff.name(page.name, 0) : '');
</script>

<div class="small mb-1">
	<a class="word" href="/growth">Growth</a> ·
	<a class="word" href="/growth/{params.measure}/levels">{page?.measure.name ?? 'Measure'}</a>
</div>
<Notice text={data.problem} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of={name} station="Growth" beside={page.measure.name} class="max-w-[880px] flex-1">{page.finding}</Finding>
		<Button href="/people/{page.person_id}">Student’s page</Button>
		<Button href="/api/growth/measures/{params.measure}/students/{page.person_id}/report.pdf">Print (PDF)</Button>
	</div>
	<Panel label="Scores in time" class="mb-3 px-4 py-3">
		<div class="flex items-baseline gap-3">
			<h2 class="text-[15px]">Scores in time</h2>
			<span class="small">bars: one standard error either way{page.measure.falling ? '; less is better' : ''}</span>
		</div>
		<Course {page} />
	</Panel>
	<Panel label="Every score" class="px-4 py-3">
		<Table>
			<thead
				><tr
					><th>When</th><th class="n">Grade</th><th>Class</th><th class="n">Score</th><th>Level</th><th>How sure</th><th
						class="n">Percentile rank</th
					><th class="n">NCE</th><th class="n">Stanine</th><th class="n">T</th><th>Marks</th></tr
				></thead
			>
			<tbody>
				{#each page.scores as s (s.at.id)}
					<tr
						><td>{s.at.name}</td><td class="n">{s.grade}</td><td>{s.klass}</td><td class="n"
							>{s.level || decimal(s.score, page.measure.decimals)}{s.se === null ? '' : ` ± ${decimal(s.se, 1)}`}</td
						><td>{s.standing.level}</td><td class="small"
							>{s.standing.near
								? 'near a cut score'
								: s.standing.probability === null
									? ''
									: `${percent(s.standing.probability)} sure`}</td
						><td class="n">{s.standing.rank ?? '–'}</td><td class="n"
							>{s.standing.nce === null ? '–' : decimal(s.standing.nce, 0)}</td
						><td class="n">{s.standing.stanine ?? '–'}</td><td class="n"
							>{s.standing.t === null ? '–' : decimal(s.standing.t, 0)}</td
						><td class="small">{s.marks.join('; ')}</td></tr
					>
				{/each}
			</tbody>
		</Table>
		<p class="small mt-2">
			{page.norms
				? `Ranks by ${page.norms.name}, version ${page.norms.version}: ${page.norms.population}.`
				: 'Ranks are among the students of the grade here.'}
		</p>
		{#each page.goals as g (g.goal.id)}<p class="mt-1 text-[14px]">
				Goal: {decimal(g.goal.score, page.measure.decimals)} by {day(g.goal.by_day)}, set by {g.goal.by}{g.came === null
					? '.'
					: `; ${decimal(g.came, page.measure.decimals)} came.`}
			</p>{/each}
		{#if page.measures.length}<p class="mt-2 text-[14px]">
				Other measures: {#each page.measures as m, place (m.id)}{place ? ', ' : ''}<a
						class="word"
						href="/growth/{m.id}/students/{page.person_id}">{m.name}</a
					>{/each}
			</p>{/if}
	</Panel>
{/if}
