<script lang="ts">
	import Table from '$lib/design/Table.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Whose from '$lib/parts/Whose.svelte';
	import { address } from './address.svelte';

	/** The workings of one figure: plain words, the formula with this case's numbers, who was counted. */
	let {
		figure,
		item = null,
		compact = false,
		histogram = []
	}: { figure: string; item?: string | null; compact?: boolean; histogram?: Schemas['Bar'][] } = $props();
	let shown = $state<Schemas['WorkingsOut'] | null>(null);
	let problem = $state('');

	/** States of sittings as the workings name them, with what their students are asked for by. */
	const STATES: Record<string, string> = {
		sat: 'sat',
		waiting: 'waiting',
		absent: 'absent',
		blank: 'blank',
		'in progress': 'in_progress',
		exempt: 'exempt',
		void: 'invalidated',
		'submitted without any answer': 'blank',
		'still in progress': 'in_progress',
		'an answer awaits its score': 'waiting'
	};
	const behind = (of: string, answer?: string) =>
		body(api.GET('/api/quality/whose', { params: { query: { ...address.scope, of, answer } } }));

	$effect(() => {
		let current = true;
		body(api.GET('/api/quality/workings', { params: { query: { ...address.scope, figure, item: item ?? undefined } } }))
			.then((answer) => {
				if (current) [shown, problem] = [answer, ''];
			})
			.catch((error) => current && (problem = said(error)));
		return () => (current = false);
	});
</script>

{#if problem}<p>{problem}</p>{/if}
{#if shown}
	{#if !compact}
		<div class="small">How this was calculated</div>
		<h2>{shown.figure.title}</h2>
		<div class="my-1 text-[26px] leading-tight font-semibold">{shown.result}</div>
	{/if}
	<p class="my-2">{shown.figure.plain}</p>
	{#if shown.why_none}<p class="my-2 font-semibold">Not stated here: {shown.why_none}.</p>{/if}
	<p class="my-2 rounded bg-paper px-2.5 py-1.5 font-mono text-[12px] leading-relaxed break-words">
		{shown.figure.formula}
	</p>
	<Table class="my-1">
		<tbody>
			{#each shown.numbers as line (line.name)}<tr
					><td class="h-6 pl-0 text-ink2">{line.name}</td><td class="n h-6 pr-0"
						>{#if figure === 'counts' && STATES[line.name] && line.value !== '0'}<Whose
								title={line.name}
								load={() => behind(STATES[line.name]!)}>{line.value}</Whose
							>{:else}{line.value}{/if}</td
					></tr
				>{/each}
			{#each shown.limits as line (line.name)}<tr
					><td class="h-6 pl-0 text-ink2">{line.name} (a setting)</td><td class="n h-6 pr-0">{line.value}</td></tr
				>{/each}
		</tbody>
	</Table>
	{#if histogram.length && ['mean', 'sd', 'ceiling'].includes(figure)}
		<details class="my-2">
			<summary class="min-h-6 cursor-pointer">Students by points</summary>
			<Table>
				<tbody
					>{#each histogram.toReversed() as b (b.score)}{#if b.students}<tr
								><td class="h-7 pl-0 text-ink2">{b.score} {b.score === 1 ? 'point' : 'points'}</td><td
									class="n h-7 pr-0"
									><Whose
										title="{b.score} {b.score === 1 ? 'point' : 'points'}"
										load={() => behind('points', String(b.score))}>{b.students}</Whose
									></td
								></tr
							>{/if}{/each}</tbody
				>
			</Table>
		</details>
	{/if}
	<p class="small my-2">
		Counted: {shown.counted}.
		{#if shown.left_out.length}Excluded: {#each shown.left_out as l, at (l.name)}{at
					? ', '
					: ''}{#if STATES[l.name]}<Whose title={l.name} load={() => behind(STATES[l.name]!)}>{l.value} {l.name}</Whose
					>{:else}{l.value} {l.name}{/if}{/each}.{:else}No one was excluded.{/if}
	</p>
	{#if shown.figure.caution}<p class="small my-2">{shown.figure.caution}</p>{/if}
	{#if shown.figure.source}<p class="small my-2">{shown.figure.source}</p>{/if}
	{#if !compact || item}<p class="my-2">
			<a class="word" href={address.href('/quality/look/grid')}>View responses</a>
		</p>{/if}
{/if}
