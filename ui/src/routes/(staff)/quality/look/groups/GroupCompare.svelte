<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import { scaleLinear } from 'd3-scale';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { percent } from '$lib/words/show';
	import { address } from '../address.svelte';

	/** Mean scores of groups with their intervals on one scale; small groups are hidden, and said to be. */
	let data = $state<Schemas['ComparedOut'] | null>(null);
	let { by, onby }: { by: string; onby: (by: string, attributes: string[]) => void } = $props();
	let problem = $state('');
	let width = $state(500);
	let asked = 0;

	$effect(() => {
		const mine = ++asked;
		body(api.GET('/api/quality/groups', { params: { query: { ...address.scope, by } } }))
			.then((answer) => {
				if (mine !== asked) return;
				data = answer;
				onby(answer.by, answer.attributes);
			})
			.catch((error) => (problem = said(error)));
	});
	const x = $derived(scaleLinear([0, 1], [150, width - 60]));
	const rows = $derived(data?.grouped?.groups ?? []);
</script>

<Panel label="Groups compared" class="mb-3 px-4 py-3">
	<div class="beside flex items-start gap-3">
		<p class="flex-1 text-[14px]">{problem || data?.finding}</p>
		{#if data && data.attributes.length}
			<Select
				label="Compare by"
				choices={data.attributes.map((a) => ({ value: a, label: a }))}
				value={data.by}
				onchange={(to) => onby(to, data?.attributes ?? [])}
				class="mt-0 w-auto"
			/>
		{/if}
	</div>
	{#if data?.grouped}
		{@const mean = data.grouped.mean}
		<div bind:clientWidth={width}>
			<svg {width} height={rows.length * 26 + 26} role="img" aria-label={data.finding}>
				{#each [0, 0.25, 0.5, 0.75, 1] as t (t)}
					<path d="M{x(t)} 4V{rows.length * 26 + 6}" stroke="var(--color-hair)" />
					<text x={x(t)} y={rows.length * 26 + 20} text-anchor="middle" font-size="11" fill="var(--color-ink2)"
						>{percent(t)}</text
					>
				{/each}
				{#if mean !== null}<path
						d="M{x(mean)} 4V{rows.length * 26 + 6}"
						stroke="var(--color-relief2)"
						stroke-dasharray="3 3"
					/>{/if}
				{#each rows as g, at (g.group)}
					{@const y = at * 26 + 18}
					<text x="0" {y} dy="4" font-size="12.5" fill="var(--color-ink)">{g.group}{g.n ? `, ${g.n}` : ''}</text>
					{#if g.hidden}<text x={x(0) + 4} {y} dy="4" font-size="12" fill="var(--color-ink2)">hidden</text>
					{:else if g.mean !== null}
						{#if g.ci95}<path
								d="M{x(g.ci95[0] ?? 0)} {y}H{x(g.ci95[1] ?? 0)}"
								stroke="var(--color-petrol)"
								stroke-width="2"
							/>{/if}
						<circle cx={x(g.mean)} cy={y} r="5" fill="var(--color-petrol)" />
						<text x={width - 46} {y} dy="4" font-size="12.5" fill="var(--color-ink)">{percent(g.mean)}</text>
					{/if}
				{/each}
			</svg>
		</div>
		<p class="small">
			Mean share of the points with its 95% interval, number of students counted; the dashed line is everybody. Groups
			under {data.grouped.least} are hidden, and one more where the hidden one could be found by subtraction.
		</p>
	{/if}
</Panel>
