<script lang="ts">
	import Accordion from '$lib/design/Accordion.svelte';
	import Table from '$lib/design/Table.svelte';
	import type { Schemas } from '$lib/api/client';
	import { day, decimal } from '$lib/words/show';

	/** The work behind the standards: by day, then by item, with how long it took and what was said of it. */
	let { work }: { work: Schemas['WorkDay'][] } = $props();
	const minutes = (value: number | null) => (value === null ? 'time not counted' : `${decimal(value, 0)}\u00a0min`);
	const seconds = (value: number | null) => (value === null ? '–' : `${decimal(value, 0)} s`);
	const sections = $derived(
		work.map((d) => ({
			value: d,
			label: `${day(d.day)}: ${d.tests.map((t) => t.test).join(', ')}`,
			more: minutes(d.minutes)
		}))
	);
</script>

<Accordion {sections}>
	{#snippet children(d)}
		{#each d.tests as t (t.test)}
			<p class="small">
				{t.test}: {decimal(t.earned, 0)} of {decimal(t.possible, 0)} points, {minutes(t.minutes)}{t.attempts > 1
					? `, ${t.attempts} attempts`
					: ''}
			</p>
			<Table>
				<thead
					><tr
						><th class="n">Item</th><th>Standards</th><th class="n">Points</th><th class="n">Time</th><th>Comments</th
						></tr
					></thead
				>
				<tbody>
					{#each t.items as i (i.number)}<tr>
							<td class="n">{i.number}</td>
							<td>{i.standards.join(', ')}</td>
							<td class="n"
								>{i.earned === null ? 'not scored' : `${decimal(i.earned, 0)} of ${decimal(i.possible, 0)}`}</td
							>
							<td class="n">{seconds(i.seconds)}</td>
							<td>{i.comments.join(' ')}</td>
						</tr>{/each}
				</tbody>
			</Table>
		{/each}
	{/snippet}
</Accordion>
