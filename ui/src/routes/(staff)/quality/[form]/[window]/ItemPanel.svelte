<script lang="ts">
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { api, body, said as sentence, type Schemas } from '$lib/api/client';
	import Sheet from '$lib/question/Sheet.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { flagWords, percent, short } from '$lib/words/show';
	import FigurePanel from './FigurePanel.svelte';
	import OptionCurves from './OptionCurves.svelte';
	import { view, type Item } from './view.svelte';

	/** One item: why it wants a look, how its answers run, who gave them, and the workings of its figures. */
	let { item }: { item: Item } = $props();
	let curves = $state<Schemas['CurvesOut'] | null>(null);
	let given = $state<Schemas['GivenOut'][] | null>(null);
	let figure = $state<string | null>(null);
	let question = $state(false);
	let tried = $state('');
	let problem = $state('');

	const FIGURES = ['p', 'r_rest', 'd27', 'alpha_without'] as const;
	const TITLES: Record<string, string> = { p: 'got it', r_rest: 'separates', d27: 'upper − lower 27 %', alpha_without: 'alpha without it' };
	const value = (name: (typeof FIGURES)[number]) => (name === 'p' ? percent(item.p) : name === 'alpha_without' ? short(item.alpha_without, 3) : short(item[name]));
	const heavy = $derived(item.flags.filter((f) => f.weight !== 'note'));
	const title = $derived(heavy[0] ? flagWords(heavy[0].flag) : item.sound === null ? 'not examined: too few students' : 'sound');
	const said = $derived(item.flags.filter((f, at) => at < 3 || f.weight === 'problem'));
	const rest = $derived([...new Set(item.flags.map((f) => flagWords(f.flag)))].filter((w) => !said.some((f) => flagWords(f.flag) === w)));
	const answers = $derived(item.options.filter((o) => o.kind === 'answer'));
	const grouped = $derived.by(() => {
		const map = new Map<string, { who: string; reason: string }[]>();
		(given ?? []).forEach((g, at) => {
			if (g.state !== 'handed_in') return;
			const key = g.answer || 'no answer';
			map.set(key, [...(map.get(key) ?? []), { who: `${staff.name(g.student, at)} (${g.klass})`, reason: g.reason }]);
		});
		return [...map].toSorted((a, b) => b[1].length - a[1].length);
	});

	$effect(() => {
		const { path, query } = view.scope;
		const code = item.item;
		let current = true;
		given = null;
		problem = '';
		api
			.GET('/api/quality/{form_id}/{window_id}/curves', { params: { path, query: { sessions: query.sessions, item: code } } })
			.then((answer) => {
				if (current) curves = answer.data ?? null;
			})
			.catch((error) => current && (problem = sentence(error)));
		return () => (current = false);
	});

	async function names() {
		if (given) return void (given = null);
		const { path, query } = view.scope;
		try {
			given = await body(api.GET('/api/quality/{form_id}/{window_id}/answers', { params: { path, query: { sessions: query.sessions, item: item.item } } }));
		} catch (error) {
			problem = sentence(error);
		}
	}
</script>

<div class="small">Item {item.number} · <code>{item.item}</code> · <StandardCode code={item.standards[0] ?? ''} /></div>
<h2 class={heavy[0]?.weight === 'problem' ? 'notch' : ''}>{title.charAt(0).toUpperCase() + title.slice(1)}</h2>
{#each said as flag (flag.flag + (flag.option ?? ''))}
	<p class="my-1.5 {flag.weight === 'note' ? 'text-ink2' : ''}">{flag.why}</p>
{/each}
{#if rest.length}<p class="small">And: {rest.join(', ')}.</p>{/if}
{#if problem}<p class="text-vermilion">{problem}</p>{/if}
<div class="mt-3 small">Share of each answer, from the weakest to the strongest</div>
{#if curves}<OptionCurves {curves} options={item.options} />
{:else}<p class="small my-2">Too few students for curves; 10 are needed, with different scores.</p>{/if}
<table class="mt-1 [&_td]:!px-1.5 [&_th]:!px-1.5">
	<thead><tr><th class="!pl-0">Answer</th><th class="n">n</th><th class="n">Share</th><th class="n">With rest</th><th class="n !pr-0 whitespace-normal" title="share of the answer among the lowest and among the highest fifth of the students">Lowest to highest fifth</th></tr></thead>
	<tbody>
		{#each answers as o, at (o.option + at)}
			<tr>
				<td class="!h-7 !pl-0">{#if o.option}<b class:underline={o.is_key}>{o.option}</b>{o.is_key ? ' key' : ''}{:else}omitted{/if}</td>
				<td class="n !h-7">{o.n}</td>
				<td class="n !h-7">{percent(o.share)}</td>
				<td class="n !h-7">{short(o.r_rest)}</td>
				<td class="n !h-7 !pr-0">{percent(o.fifths[0] ?? null).replace(' %', '')} → {percent(o.fifths[4] ?? null)}</td>
			</tr>
		{/each}
	</tbody>
</table>
<p class="small mt-2">
	Counted: {item.n}.
	{#if item.left_out.length}Left out: {item.left_out.map((l) => `${l.value} ${l.name}`).join(', ')}.{:else}Nobody was left out.{/if}
</p>
<div class="mt-3 grid grid-cols-4 gap-1 border-t border-hair pt-3">
	{#each FIGURES as name (name)}
		<button class="cursor-pointer rounded p-1 text-left text-[12px] leading-tight text-ink2 hover:bg-wash" class:bg-wash={figure === name} aria-expanded={figure === name} onclick={() => (figure = figure === name ? null : name)}>
			<b class="block text-[16px] text-ink">{value(name)}</b>{TITLES[name]}
		</button>
	{/each}
</div>
{#if figure}<div class="mt-1 border-l-2 border-petrol pl-3"><FigurePanel {figure} item={item.item} compact /></div>{/if}
<div class="mt-3 flex flex-wrap gap-2">
	<button class="btn" aria-expanded={question} onclick={() => (question = !question)}>{question ? 'Hide the question' : 'Show the question'}</button>
	{#if view.data?.may_see_names}<button class="btn" aria-expanded={!!given} onclick={names}>{given ? 'Hide who' : 'Who gave which answer'}</button>{/if}
</div>
{#if question}
	<div class="mt-3 rounded bg-paper p-3">
		<Sheet shown={item.shown} stimulus={item.stimulus} answer={tried} name="look-{item.item}" onanswer={(answer) => (tried = answer)} />
	</div>
{/if}
{#if given}
	<div class="mt-3">
		{#each grouped as [answer, names] (answer)}
			<details class="border-b border-hair2 py-1"><summary class="cursor-pointer"><b>{answer}</b> · {names.length}</summary>
				{#if names.some((n) => n.reason)}<dl class="py-1">{#each names as n (n.who)}<dt class="small">{n.who}</dt><dd class="mb-1 pl-3">{n.reason || 'no reason written'}</dd>{/each}</dl>
				{:else}<p class="py-1 text-ink2">{names.map((n) => n.who).join(', ')}</p>{/if}
			</details>
		{/each}
	</div>
{/if}
