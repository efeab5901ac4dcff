<script lang="ts">
	import { goto } from '$app/navigation';
	import type { Schemas } from '$lib/api/client';
	import Finding from '$lib/design/Finding.svelte';
	import Select from '$lib/design/Select.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { percent } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** Standards by schools and grades: who has mastered them, with intervals; small groups hidden. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	const WIDE = 92;
	const go = (subject: string, grade: string) => {
		const query = new URLSearchParams({ subject, grade });
		void goto(`/mastery/district?${query}`, { noScroll: true });
	};
	const words = (c: Schemas['DistrictCell']) =>
		c.share === null
			? c.n === 0
				? 'no evidence'
				: 'too few to show'
			: `${percent(c.share)} of ${c.n} (${percent(c.ci95?.[0] ?? null)} to ${percent(c.ci95?.[1] ?? null)})`;
	const to = (grade: string, school: string) =>
		`/mastery?${new URLSearchParams({ subject: page?.subject ?? '', grade, ...(school ? { school } : {}) })}`;
	/** Neighbors of one domain share a heading. */
	const heads = $derived(
		(page?.lines ?? []).map((line, at) => {
			const before = page?.lines[at - 1];
			return before && before.domain === line.domain && before.grade === line.grade
				? ''
				: page?.grade || line.domain.includes(`grade ${line.grade}`)
					? line.domain
					: [`Grade ${line.grade}`, line.domain].filter(Boolean).join(', ');
		})
	);
</script>

<div class="small mb-1"><a class="word" href="/mastery">Mastery</a></div>
<Notice text={data.problem} />
{#if page}
	<Finding of="District" station="Mastery" beside={page.subject} class="mb-3 max-w-[860px]" live>{page.finding}</Finding
	>
	<div class="mb-3 flex flex-wrap items-end gap-3">
		<label class="field"
			>Subject<Select
				value={page.subject}
				choices={page.subjects.map((s) => ({ value: s, label: s }))}
				onchange={(subject) => go(subject, '')}
			/></label
		>
		<label class="field"
			>Grade<Select
				value={page.grade}
				choices={[
					{ value: '', label: 'all, side by side' },
					...page.grades.map((g) => ({ value: g, label: `grade ${g}, by school` }))
				]}
				onchange={(grade) => go(page.subject, grade)}
			/></label
		>
		<p class="small pb-1">
			Bar: 95% interval of the share who have mastered it; groups under {page.least} are hidden.{page.guide
				? ''
				: ' No pacing guide: what was taught cannot be told.'}
		</p>
	</div>
	{#if page.lines.length}
		<div {@attach scrollable} class="frozen sheet max-h-[600px] overflow-auto">
			<table aria-label="Standards by {page.grade ? 'schools' : 'grades'}">
				<thead>
					<tr>
						<th class="sticky left-0 z-20 min-w-[220px]">Standard</th>
						<th class="min-w-[130px]">All</th>
						{#each page.places as p (p.id)}<th class="min-w-[130px]"
								><a class="word" href={page.grade ? to(page.grade, p.id) : to(p.id, '')}>{p.label}</a><span
									class="small block font-normal">{p.students} students</span
								></th
							>{/each}
					</tr>
				</thead>
				<tbody>
					{#each page.lines as line, at (line.standard)}
						{#if heads[at]}<tr
								><th
									class="sticky left-0 pt-2 text-left text-[12.5px] font-semibold text-ink2"
									colspan={page.places.length + 2}>{heads[at]}</th
								></tr
							>{/if}
						<tr class={line.all.taught ? '' : 'text-ink2'}>
							<th scope="row" class="sticky left-0 z-10 max-w-[260px] bg-sheet text-left font-normal whitespace-normal"
								><b class="font-semibold">{line.code}</b>
								<span class="text-[13px]">{line.text}</span>{#if !line.all.taught}<span class="small block"
										>not taught yet by the pacing guide</span
									>{/if}</th
							>
							{#each [line.all, ...line.cells] as c, place (place)}
								<td class="align-top" title={words(c)}>
									{#if c.share === null}<span class="small">{c.n === 0 ? '–' : 'hidden'}</span>
									{:else}
										<svg width={WIDE + 8} height="14" viewBox="-4 0 {WIDE + 8} 14" role="img" aria-label={words(c)}>
											<path d="M0 7H{WIDE}" stroke="var(--color-hair)" />
											<rect
												x={(c.ci95?.[0] ?? 0) * WIDE}
												y="3"
												width={Math.max(2, ((c.ci95?.[1] ?? 0) - (c.ci95?.[0] ?? 0)) * WIDE)}
												height="8"
												rx="2"
												fill={c.stands === 'below'
													? 'var(--color-relief2)'
													: c.stands === 'above'
														? 'var(--color-relief5)'
														: 'var(--color-relief3)'}
												opacity={c.taught ? 1 : 0.45}
											/>
											<circle cx={c.share * WIDE} cy="7" r="3" fill="var(--color-white)" stroke="var(--color-ink)" />
										</svg>
										<span class="block text-[12.5px]"
											>{percent(c.share)} <span class="small">of {c.n}</span>{#if c.stands}<b class="ml-1 font-semibold"
													>{c.stands} the others</b
												>{/if}</span
										>
									{/if}
								</td>
							{/each}
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
		<p class="small mt-2">
			By classes of today. Item quality counts those of the day a test was taken, so figures there may differ.
		</p>
	{/if}
{/if}
