<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { goto } from '$app/navigation';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="mb-3 flex items-start gap-3">
	<Finding of="Pacing guides" class="flex-1">{shown.data?.finding ?? ''}</Finding>
	{#if staff.may('plans.write')}<Button
			aria-expanded={shown.bringing}
			onclick={() => (shown.bringing = !shown.bringing)}>Import pacing guide</Button
		>{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.bringing}
	<div class="mb-3">
		<ImportPanel
			kind="plans"
			accept=".csv,.tsv,.xlsx"
			hint="One row a lesson, with the columns subject, grade, unit, lesson, standards, start, end. A lesson is known by its unit and name: what was taught stays with it when its days move."
			paste={'subject\tgrade\tunit\tlesson\tstandards\tstart\tend\nMathematics\t6\tFractions\tUnlike denominators\tBAF-M6.1\t2026-08-31\t2026-09-04'}
			onapplied={shown.load}
		/>
	</div>
{/if}
{#if shown.data?.plans.length}
	<Panel label="Pacing guides">
		<Table>
			<thead
				><tr><th>Course</th><th>Lessons, and how many are due by today</th><th class="n">Classes</th><th>Behind</th></tr
				></thead
			>
			<tbody>
				{#each shown.data.plans as p (p.id)}
					<tr tabindex="-1" data-row onclick={() => goto(`/people/plans/${p.id}`)}>
						<td><a class="word" href="/people/plans/{p.id}">{p.course}</a></td>
						<td
							><span class="flex items-center gap-2"
								><span class="flex h-3.5 gap-[2px]"
									>{#each { length: p.lessons } as _, at (at)}<span
											class="block w-[7px] {at < p.expected ? 'bg-relief2' : 'bg-relief4'}"
										></span>{/each}</span
								>{p.expected} of {p.lessons}</span
							></td
						>
						<td class="n">{p.classes}</td>
						<td
							>{#if p.behind}<span class="notch">{p.behind} {p.behind === 1 ? 'class' : 'classes'}</span
								>{:else}none{/if}</td
						>
					</tr>
				{/each}
			</tbody>
		</Table>
	</Panel>
{:else if shown.data}<p class="sheet p-6 text-ink2">
		Pacing guides appear here: each lesson with its standards and dates, and what each class has been taught so far.
	</p>{/if}
