<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { moment, whole } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** Tests whose results can go out, those that have not first. */
	let { data }: PageProps = $props();
	const to = (n: number, of: number) => (n === 0 ? 'not released' : n >= of ? 'released' : `${n} of ${of} classes`);
</script>

<div class="small mb-1"><a class="word" href="/scoring">Scoring</a></div>
<Notice text={data.problem} />
{#if data.page}
	<Finding of="Release" station="Scoring" class="mb-3">{data.page.finding}</Finding>
	{#if data.page.tests.length}
		<Table within="sheet">
			<thead
				><tr
					><th>Test</th><th>Window</th><th>Last taken</th><th class="n">Submitted</th><th class="n">Classes</th><th
						>Students</th
					><th>Families</th></tr
				></thead
			>
			<tbody>
				{#each data.page.tests as test (`${test.form_id} ${test.window_id}`)}
					<tr>
						<td
							><a class="word font-semibold" href="/scoring/release/{test.form_id}?window={test.window_id}" data-row
								>{test.form}</a
							></td
						>
						<td>{test.window}</td>
						<td>{moment(test.latest)}</td>
						<td class="n">{whole(test.submitted)}</td>
						<td class="n">{test.sessions}</td>
						<td class={test.students ? '' : 'text-ink2'}>{to(test.students, test.sessions)}</td>
						<td class={test.families ? '' : 'text-ink2'}>{to(test.families, test.sessions)}</td>
					</tr>
				{/each}
			</tbody>
		</Table>
	{/if}
{/if}
